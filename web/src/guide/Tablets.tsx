import { Button, SegmentedControl, Select, TextInput } from '@mantine/core';
import { useDocumentTitle, useInterval } from '@mantine/hooks';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { answered, api } from '../api/client';
import type { PairedDevice, Reach } from '../api/types';
import { useTellFailure } from '../app/showFailure';
import { clockTime, dateTime } from '../design/dates';
import { Panel } from '../design/Panel';
import { formatNumber } from '../design/quantity';
import guide from './Guide.module.css';
import { GuideHead } from './GuideHead';
import classes from './Tablets.module.css';

const KEY = ['paired-devices'];
const WATCH_MS = 2000;
const SECOND_MS = 1000;
const MINUTE_S = 60;
const CODE_HALF = 4;
const REACHES: { value: Reach; label: string }[] = [
  { value: 'make_and_rack', label: 'Make day and rack' },
  { value: 'everything', label: 'Everything' },
];

const usePairedDevices = () =>
  useQuery({
    queryKey: KEY,
    queryFn: () => answered(api.GET('/api/paired-devices')),
    // While a code is shown, the device that takes it appears by itself.
    refetchInterval: ({ state }) => (state.data?.offer ? WATCH_MS : false),
  });

/** Second devices: pair one, say what it may reach, end its access. */
export function Tablets() {
  useDocumentTitle('Phones and tablets · Sapolin');
  const { data, error } = usePairedDevices();
  return (
    <div className={guide.page}>
      <GuideHead>Phones and tablets</GuideHead>
      {error !== null && <p role="alert">{error.message}</p>}
      {data && (
        <div className={guide.columns}>
          <div className={guide.side}>
            {data.network === null ? <NotOpen /> : data.offer === null ? <Ask /> : <OpenCode code={data.offer.code} name={data.offer.name} endsAt={data.offer.ends_at} addresses={data.network.addresses} />}
          </div>
          <div className={guide.side}>
            <Devices devices={data.devices} />
            {data.network !== null && <Trust fingerprint={data.network.fingerprint} />}
          </div>
        </div>
      )}
    </div>
  );
}

function NotOpen() {
  return (
    <Panel title="Sapolin listens on this machine alone">
      <p>To weigh on a tablet beside the scale, or to look after the rack with a phone, end Sapolin and start it for your own network:</p>
      <p className={classes.address}>sapolin serve --network</p>
      <p className="muted">From a copy of its source it is <span className={classes.address}>./run serve --network</span>. Only devices that you pair here get in, and all they send is encrypted. Nothing goes to the internet.</p>
    </Panel>
  );
}

function Ask() {
  const [name, setName] = useState('');
  const [reach, setReach] = useState<Reach>('make_and_rack');
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const ask = useMutation({
    mutationFn: () => answered(api.POST('/api/paired-devices/offer', { body: { name: name.trim(), reach } })),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
    onError: tellFailure,
  });
  return (
    <Panel title="Pair a phone or tablet">
      <form
        className={classes.ask}
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== '') ask.mutate();
        }}
      >
        <TextInput label="What do you call it?" placeholder="Tablet at the scale" maxLength={40} value={name} onChange={(event) => setName(event.currentTarget.value)} data-testid="device-name" />
        <div>
          <SegmentedControl fullWidth value={reach} onChange={(value) => setReach(value as Reach)} data={REACHES} aria-label="What it may reach" data-testid="device-reach" />
          <p className="muted">
            {reach === 'make_and_rack'
              ? 'It weighs batches, keeps notes and pictures, and follows bars through the cure. Formulas, stock, prices and labels stay closed.'
              : 'It does all that this screen does, except backups and pairing.'}
          </p>
        </div>
        <Button type="submit" variant="filled" size="md" disabled={name.trim() === ''} loading={ask.isPending} data-testid="ask-code">
          Show a code
        </Button>
      </form>
    </Panel>
  );
}

function OpenCode({ code, name, endsAt, addresses }: { code: string; name: string; endsAt: string; addresses: string[] }) {
  const client = useQueryClient();
  const [now, setNow] = useState(() => Date.now());
  useInterval(() => setNow(Date.now()), SECOND_MS, { autoInvoke: true });
  const withdraw = useMutation({
    mutationFn: () => api.DELETE('/api/paired-devices/offer'),
    onSettled: () => client.invalidateQueries({ queryKey: KEY }),
  });
  const left = Math.max(0, Math.round((new Date(endsAt).getTime() - now) / SECOND_MS));
  return (
    <Panel title={`Pair “${name}”`} aside={`until ${clockTime(endsAt)}, ${formatNumber(Math.ceil(left / MINUTE_S), 0)} min left`}>
      <div className={classes.offer}>
        {/* The code is in the address so that a new one is never shown as an old picture. */}
        <img src={`/api/paired-devices/offer.svg?of=${endsAt}`} alt="Address and code, to scan with the device" />
        <div>
          <p className={classes.code} aria-label={`Code ${code.split('').join(' ')}`} data-testid="pairing-code">
            {code.slice(0, CODE_HALF)} {code.slice(CODE_HALF)}
          </p>
          <ol className={classes.steps}>
            <li>
              With the device on the same network, scan the picture, or open{' '}
              <span className={classes.address} data-testid="network-address">
                {addresses[0]}
              </span>
            </li>
            <li>
              Its browser warns once, as nobody outside vouches for your workshop. Look at the certificate it shows: all pairs of its SHA-256 fingerprint must be those under “The workshop’s own certificate”. Then go on.
            </li>
            <li>Type the code there, if it does not stand there yet, and press Pair.</li>
          </ol>
        </div>
      </div>
      {addresses.length > 1 && (
        <p className="muted">
          If that address does not open: <span className={classes.address}>{addresses.slice(1).join(' · ')}</span>
        </p>
      )}
      <Button loading={withdraw.isPending} onClick={() => withdraw.mutate()} data-testid="withdraw-code">
        Withdraw the code
      </Button>
    </Panel>
  );
}

function Devices({ devices }: { devices: PairedDevice[] }) {
  const inUse = devices.filter((device) => device.ended_at === null);
  const ended = devices.filter((device) => device.ended_at !== null);
  return (
    <Panel title="Devices with access">
      {inUse.length === 0 && <p className="muted">None yet. A paired device stays paired for a year after it was paired, or until you end its access here.</p>}
      <ul className={classes.devices} aria-label="Devices with access">
        {inUse.map((device) => (
          <Device key={device.id} device={device} />
        ))}
      </ul>
      {ended.length > 0 && (
        <details>
          <summary>Access ended: {formatNumber(ended.length, 0)}</summary>
          <ul className={classes.devices} aria-label="Devices whose access ended">
            {ended.map((device) => (
              <li key={device.id} className={classes.ended}>
                <span>
                  {device.name}
                  <small>
                    from {dateTime(device.paired_at)} to {dateTime(device.ended_at ?? '')}
                  </small>
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </Panel>
  );
}

function Device({ device }: { device: PairedDevice }) {
  const client = useQueryClient();
  const tellFailure = useTellFailure();
  const [name, setName] = useState<string | null>(null);
  const params = { path: { device_id: device.id } };
  const settled = { onSuccess: () => client.invalidateQueries({ queryKey: KEY }), onError: tellFailure };
  const change = useMutation({
    mutationFn: (body: { name?: string; reach?: Reach }) => answered(api.PATCH('/api/paired-devices/{device_id}', { params, body })),
    ...settled,
  });
  const end = useMutation({ mutationFn: () => answered(api.DELETE('/api/paired-devices/{device_id}', { params })), ...settled });
  if (name !== null) {
    return (
      <li>
        <form
          className={classes.renaming}
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() !== '') change.mutate({ name: name.trim() }, { onSuccess: () => setName(null) });
          }}
        >
          <TextInput aria-label={`New name of ${device.name}`} maxLength={40} value={name} onChange={(event) => setName(event.currentTarget.value)} autoFocus />
          <Button onClick={() => setName(null)}>Cancel</Button>
          <Button type="submit" variant="filled" disabled={name.trim() === ''} loading={change.isPending}>
            Keep
          </Button>
        </form>
      </li>
    );
  }
  return (
    <li data-testid="paired-device">
      <span>
        {device.name}
        <small>
          paired {dateTime(device.paired_at)} · last seen {dateTime(device.seen_at)}
        </small>
      </span>
      <Select aria-label={`What ${device.name} may reach`} data={REACHES} value={device.reach} allowDeselect={false} onChange={(reach) => reach !== null && change.mutate({ reach: reach as Reach })} />
      <Button variant="subtle" onClick={() => setName(device.name)} aria-label={`Rename ${device.name}`}>
        Rename
      </Button>
      <Button loading={end.isPending} onClick={() => end.mutate()} aria-label={`End the access of ${device.name}`} data-testid="end-access">
        End access
      </Button>
    </li>
  );
}

function Trust({ fingerprint }: { fingerprint: string }) {
  return (
    <Panel title="The workshop’s own certificate">
      <p>A device warns once, because this certificate was made here and not bought. Its browser can show it; all pairs of the fingerprint (SHA-256) must be these:</p>
      <p className={classes.print} data-testid="fingerprint">
        {fingerprint.split(':').map((pair, i) => (
          <span key={i}>{pair}</span>
        ))}
      </p>
      <p className="muted">To have no warning at all, save the workshop’s authority, carry it to the device and install it there as a certificate authority. It can vouch for addresses of local networks only.</p>
      <Button component="a" href="/api/paired-devices/authority" download data-testid="save-authority">
        Save the authority …
      </Button>
    </Panel>
  );
}
