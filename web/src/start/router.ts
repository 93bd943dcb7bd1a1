export { createBrowserRouter } from 'react-router';
performance.mark('router');
