/** Chimes and vibration, so that a pour can be followed without looking, and alarms that are heard across the room. */
import type { Standing } from './weighing';

type Signal = Exclude<Standing, 'under'> | 'alarm';

/** Tones of each signal: hertz and seconds; and the pattern of the vibration, ms. */
const SIGNALS: Record<Signal, { tones: [hz: number, s: number][]; pattern: number[] }> = {
  near: { tones: [[520, 0.09]], pattern: [60] },
  right: { tones: [[660, 0.12], [880, 0.22]], pattern: [80, 60, 160] },
  over: { tones: [[330, 0.16], [262, 0.26]], pattern: [220, 80, 220] },
  alarm: { tones: [[880, 0.2], [0, 0.1], [880, 0.2], [0, 0.1], [880, 0.4]], pattern: [300, 150, 300, 150, 300] },
};
const LOUDNESS = 0.22;

let audio: AudioContext | null = null;

/** Sound and vibrate; a device that can do neither stays silent. */
export function signal(kind: Signal): void {
  const { tones, pattern } = SIGNALS[kind];
  if ('vibrate' in navigator) navigator.vibrate(pattern);
  if (typeof AudioContext === 'undefined') return;
  audio ??= new AudioContext();
  void audio.resume();
  let at = audio.currentTime;
  for (const [hz, seconds] of tones) {
    if (hz > 0) {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      tone.frequency.value = hz;
      volume.gain.setValueAtTime(LOUDNESS, at);
      volume.gain.exponentialRampToValueAtTime(0.001, at + seconds);
      tone.connect(volume).connect(audio.destination);
      tone.start(at);
      tone.stop(at + seconds);
    }
    at += seconds;
  }
}
