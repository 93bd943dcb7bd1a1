import { useState } from 'react';

import { answered, api } from '../api/client';
import type { DeviceReadings } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { useTemperature } from '../design/temperature';
import classes from './Make.module.css';
import { useMaking, useReadings, useWork } from './MakeContext';

/** The simulated scale and thermometer, to rehearse with: pour, pinch, bump, unplug, warm and cool. */
export function DevicePanel() {
  const { run } = useWork();
  const devices = useReadings();
  const [isOpen, setIsOpen] = useState(true);
  const step = run.prepared.steps.find((one) => one.id === run.state.current);
  const isTemperature = step?.kind === 'temperature';
  if (!devices?.is_simulated) return null;
  return (
    <section className={classes.panel} aria-label="Devices">
      <header>
        <h2>{isTemperature ? 'Thermometer' : 'Scale'}</h2>
        <button type="button" onClick={() => setIsOpen((now) => !now)} aria-expanded={isOpen}>
          simulated · {isTemperature ? devices.thermometer?.state : devices.scale?.state}
        </button>
      </header>
      {isOpen && (isTemperature ? <ThermometerPlay devices={devices} /> : <ScalePlay devices={devices} />)}
    </section>
  );
}

function ScalePlay({ devices }: { devices: DeviceReadings | null }) {
  const { run } = useWork();
  const tellFailure = useTellFailure();
  const play = (what: 'pour' | 'pour_until' | 'take_off' | 'clear' | 'bump' | 'unplug' | 'plug' | 'overload', grams = 0) =>
    void answered(api.POST('/api/devices/scale/play', { body: { what, grams } })).catch(tellFailure);
  const toPour = run.weighing?.to_show_g ?? 100;
  const isUnplugged = devices?.scale?.state === 'unplugged';
  return (
    <div className={classes.play}>
      <button type="button" onClick={() => play('pour_until', toPour)} data-testid="pour-right">pour right</button>
      <button type="button" onClick={() => play('pour', Math.max(toPour * 0.1, 0.5))}>pour some</button>
      <button type="button" onClick={() => play('pour', Math.max(toPour * 0.06, 0.4))} data-testid="pour-more">splash</button>
      <button type="button" onClick={() => play('take_off', Math.max(toPour * 0.01, 0.1))}>pinch off</button>
      <button type="button" onClick={() => play('bump')}>bump</button>
      <button type="button" onClick={() => play('clear')} data-testid="clear">clear</button>
      <button type="button" onClick={() => play('overload')}>overload</button>
      <button type="button" onClick={() => play(isUnplugged ? 'plug' : 'unplug')} data-testid="unplug">{isUnplugged ? 'plug in' : 'unplug'}</button>
    </div>
  );
}

function ThermometerPlay({ devices }: { devices: DeviceReadings | null }) {
  const { run } = useMaking();
  const temperature = useTemperature();
  const tellFailure = useTellFailure();
  type Play = { what: 'heat' | 'ice_bath' | 'out_of_bath' | 'unplug' | 'plug'; bowl?: 'oils' | 'lye'; celsius?: number };
  const play = ({ what, bowl = 'oils', celsius = 20 }: Play) =>
    void answered(api.POST('/api/devices/thermometer/play', { body: { what, bowl, celsius } })).catch(tellFailure);
  const { window, lye_peak: peak } = run.prepared.planned;
  const middle = (window.low_c + window.high_c) / 2;
  const isUnplugged = devices?.thermometer?.state === 'unplugged';
  return (
    <div className={classes.play}>
      {(['oils', 'lye'] as const).map((bowl) => (
        <div key={bowl}>
          <span>{bowl}</span>
          <button type="button" onClick={() => play({ what: 'heat', bowl, celsius: bowl === 'lye' ? Math.max(peak.low_c, 40) : 62 })}>
            hot
          </button>
          <button type="button" onClick={() => play({ what: 'heat', bowl, celsius: (devices?.thermometer?.celsius[bowl] ?? 40) - 8 })} data-testid={`cool-${bowl}`}>
            −{temperature.unit === '°C' ? 8 : 14}
          </button>
          <button type="button" onClick={() => play({ what: 'heat', bowl, celsius: middle })} data-testid={`right-${bowl}`}>
            right
          </button>
          <button type="button" onClick={() => play({ what: 'ice_bath', bowl })}>ice</button>
        </div>
      ))}
      <button type="button" onClick={() => play({ what: isUnplugged ? 'plug' : 'unplug' })}>{isUnplugged ? 'plug in' : 'unplug'}</button>
    </div>
  );
}
