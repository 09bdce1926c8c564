/*
 * The part of the package `mqtt` that is used, as the compiler is told of it (paths in tsconfig.json). The package's
 * own types bring those of Node with them, under which code that does not run in a page would pass.
 */

interface ConnectOptions {
  connectTimeout?: number;
  username?: string;
  password?: string;
  /** Certificates in PEM. */
  ca?: string;
  rejectUnauthorized?: boolean;
  clientId?: string;
  /** Seconds. */
  keepalive?: number;
  clean?: boolean;
  protocolVersion?: 4;
  /** Milliseconds; 0 for never. */
  reconnectPeriod?: number;
  resubscribe?: boolean;
  queueQoSZero?: boolean;
  will?: { topic: string; payload: string; qos: 0 | 1; retain: boolean };
}

interface Received {
  readonly topic: string;
  readonly payload: string | Uint8Array;
  readonly retain: boolean;
}

interface Client {
  readonly connected: boolean;
  readonly stream: { write(data: Uint8Array): unknown; end(): unknown };
  handleMessage: (message: Received, taken: (error?: Error) => void) => void;
  on(event: 'error', listener: (error: Error) => void): unknown;
  on(event: 'close', listener: () => void): unknown;
  on(event: 'connect', listener: (packet: { readonly sessionPresent: boolean }) => void): unknown;
  once(event: 'close', listener: () => void): unknown;
  publish(
    topic: string,
    payload: string,
    options: { qos: 0 | 1; retain: boolean },
    done?: (error?: Error | null) => void,
  ): unknown;
  subscribe(
    filters: string[],
    options: { qos: 1 },
    done: (
      error: Error | null,
      granted?: unknown,
      packet?: { readonly granted: readonly (number | object)[] },
    ) => void,
  ): unknown;
  end(force?: boolean): unknown;
  endAsync(): Promise<unknown>;
}

declare const mqtt: { connect(url: string, options: ConnectOptions): Client };
export type { ConnectOptions as IClientOptions, Client as MqttClient };
export default mqtt;
