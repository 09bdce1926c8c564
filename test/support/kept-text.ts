import { expect } from 'chai';
import { crc32 } from 'node:zlib';

/* eslint-disable @typescript-eslint/no-explicit-any -- tests look at whatever was kept */

/** The value of a kept text, if its checksum matches Node’s own CRC-32. */
export function opened(kept: string): { kind: string; version: number; value: any } {
  const parts = /^aurelian-drift (\S+) (\d+) ([0-9a-f]{8}) ([^]*)$/.exec(kept);
  const [, kind = '', version = '', sum = '', json = ''] = parts ?? [];
  expect(Number.parseInt(sum, 16)).to.equal(crc32(json));
  return { kind, version: Number(version), value: JSON.parse(json) };
}

/** A value as a kept text, with a correct checksum. */
export function sealed(kind: string, version: number, value: unknown): string {
  const json = JSON.stringify(value);
  return `aurelian-drift ${kind} ${version} ${crc32(json).toString(16).padStart(8, '0')} ${json}`;
}
