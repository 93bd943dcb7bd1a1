export { createRoot } from 'react-dom/client';
performance.mark('react');
