export { MantineProvider } from '@mantine/core';
performance.mark('mantine');
