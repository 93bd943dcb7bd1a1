import { useEffect, useState } from 'react';

import type { DeviceReadings } from '../api/types';

/** Scale and thermometer, live; null while nothing answers. */
export function useDevices(): DeviceReadings | null {
  const [readings, setReadings] = useState<DeviceReadings | null>(null);
  useEffect(() => {
    const source = new EventSource('/api/devices/stream');
    source.onmessage = (message: MessageEvent<string>) => setReadings(JSON.parse(message.data) as DeviceReadings);
    // The browser connects again by itself.
    source.onerror = () => setReadings(null);
    return () => source.close();
  }, []);
  return readings;
}
