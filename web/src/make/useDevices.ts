import { useLocalStorage } from '@mantine/hooks';
import { useEffect, useState } from 'react';

import type { DeviceReadings } from '../api/types';

const NAME = 'sapolin.devices';
/** A tab that follows another one's readings takes them for gone after this long. */
const SILENT_MS = 2500;

type Told = (readings: DeviceReadings | null) => void;

/** Scale and thermometer, live; null while nothing answers.
 *
 *  All tabs share one stream from the server: the one that holds the lock listens and hands on what it hears. A tab that
 *  cannot be seen listens to nothing, so that many open tabs do not use up the browser's connections. */
export function useDevices(): DeviceReadings | null {
  const [readings, setReadings] = useState<DeviceReadings | null>(null);
  useEffect(() => {
    let stop: (() => void) | null = null;
    const follow = () => {
      if (document.hidden) {
        stop?.();
        stop = null;
        setReadings(null);
      } else stop ??= listen(setReadings);
    };
    follow();
    document.addEventListener('visibilitychange', follow);
    return () => {
      document.removeEventListener('visibilitychange', follow);
      stop?.();
    };
  }, []);
  return readings;
}

/** Whether the workshop has a scale: as its server said last, also while it does not answer. Without one weights are typed, and
 *  nothing stands in the place of a measurement. */
export function useHasScale(devices: DeviceReadings | null): boolean {
  const [known, setKnown] = useLocalStorage({ key: 'sapolin.has-scale', defaultValue: true, getInitialValueInEffect: false });
  const has = devices === null ? known : devices.scale !== null;
  useEffect(() => {
    if (has !== known) setKnown(has);
  }, [has, known, setKnown]);
  return has;
}

/** Listen until the returned function is called. */
function listen(tell: Told): () => void {
  if (!('locks' in navigator) || typeof BroadcastChannel === 'undefined') return openStream(tell);
  const channel = new BroadcastChannel(NAME);
  const leaving = new AbortController();
  let silence: ReturnType<typeof setTimeout> | undefined;
  channel.onmessage = (message: MessageEvent<DeviceReadings | null>) => {
    clearTimeout(silence);
    silence = setTimeout(() => tell(null), SILENT_MS);
    tell(message.data);
  };
  void navigator.locks
    .request(NAME, { signal: leaving.signal }, () => {
      clearTimeout(silence);
      const close = openStream((readings) => {
        tell(readings);
        channel.postMessage(readings);
      });
      return new Promise<void>((resolve) => {
        leaving.signal.addEventListener('abort', () => {
          close();
          resolve();
        });
      });
    })
    .catch(() => undefined); // It never got the lock.
  return () => {
    leaving.abort();
    clearTimeout(silence);
    channel.close();
  };
}

function openStream(tell: Told): () => void {
  const source = new EventSource('/api/devices/stream');
  source.onmessage = (message: MessageEvent<string>) => tell(JSON.parse(message.data) as DeviceReadings);
  // The browser connects again by itself.
  source.onerror = () => tell(null);
  return () => source.close();
}
