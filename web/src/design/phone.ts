import { useMediaQuery } from '@mantine/hooks';

/** A window as narrow as a phone's. */
export const PHONE = '(max-width: 760px)';

export const useIsPhone = () => useMediaQuery(PHONE, undefined, { getInitialValueInEffect: false });
