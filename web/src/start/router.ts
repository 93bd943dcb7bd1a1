export { createBrowserRouter } from 'react-router';
