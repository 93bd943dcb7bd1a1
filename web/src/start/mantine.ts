export { MantineProvider } from '@mantine/core';
