import { Ajv2020 } from 'ajv/dist/2020.js';
import { Receiver, bridgeSource, type BridgePort, type BridgeSource } from 'aurelian-drift';
import {
  SimulatedDevice,
  VirtualClock,
  simulatedShell,
  type SimulatedDeviceOptions,
  type SimulatedShellOptions,
} from 'aurelian-drift/testing';
import { readFileSync } from 'node:fs';
import { hut } from './device.js';

type Listener = (event: { data: unknown }) => void;

/** The published schema of the messages of both sides. */
export const schema = JSON.parse(
  readFileSync(new URL('../../docs/bridge.schema.json', import.meta.url), 'utf8'),
) as object;
const ajv = new Ajv2020({ strict: false, allErrors: false }).addSchema(schema, 'bridge');
/** Checks of a message, or batch, by the published schema. */
export const isFromPage = ajv.compile({ $ref: 'bridge#/$defs/fromPage' });
export const isFromShell = ajv.compile({ $ref: 'bridge#/$defs/fromShell' });

/** Both ends of a channel whose messages arrive in order, copied, and without timers. */
export function channel() {
  const end = () => ({ listeners: new Set<Listener>(), closing: new Set<Listener>(), sent: [] as unknown[] });
  const [a, b] = [end(), end()];
  const port = (own: typeof a, other: typeof a): BridgePort => ({
    postMessage(message) {
      own.sent.push(message);
      const data = structuredClone(message);
      queueMicrotask(() => {
        for (const listener of other.listeners) listener({ data });
      });
    },
    addEventListener: (kind, listener) =>
      void (kind === 'message' ? own.listeners : own.closing).add(listener),
    removeEventListener: (kind, listener) =>
      void (kind === 'message' ? own.listeners : own.closing).delete(listener),
  });
  return {
    page: port(a, b),
    shell: port(b, a),
    fromPage: a.sent as (Record<string, unknown> & { kind: string })[],
    fromShell: b.sent as (Record<string, unknown> & { kind: string })[],
    /** The shell closes its end. */
    closeShell: () => {
      for (const listener of [...a.closing]) listener({ data: undefined });
      a.listeners.clear();
    },
  };
}

/** A receiver over a bridge to a simulated shell. */
export function bridged(
  options: SimulatedDeviceOptions = {},
  shellOptions: SimulatedShellOptions = {},
  ports = channel(),
) {
  const clock = new VirtualClock();
  const device = new SimulatedDevice({
    at: hut,
    reception: 'open',
    clock,
    background: 'by-level',
    ...options,
  });
  const shell = simulatedShell(ports.shell, device, { clock, ...shellOptions });
  const warnings: string[] = [];
  const warn = (text: string) => void warnings.push(text);
  const source: BridgeSource = bridgeSource(ports.page, { clock, warn });
  const receiver = new Receiver({ source, clock, purpose: 'Test.', warn });
  return { ...ports, clock, device, ports, shell, source, receiver, warnings };
}

/** Messages of the schema’s other side that the schema refuses. */
export function offSchema({
  fromPage,
  fromShell,
}: Pick<ReturnType<typeof channel>, 'fromPage' | 'fromShell'>) {
  return [
    ...fromPage.filter((message) => !isFromPage(message)),
    ...fromShell.filter((message) => !isFromShell(message)),
  ];
}
