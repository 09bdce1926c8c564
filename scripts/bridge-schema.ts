/* npm run schema: writes docs/bridge.schema.json, the messages of the bridge as a JSON Schema. */
import { writeFile } from 'node:fs/promises';
import { toJsonSchema } from '@valibot/to-json-schema';
import { BRIDGE_VERSION, MOST, bridgeMessages } from 'aurelian-drift/internal';

type Schema = Parameters<typeof toJsonSchema>[0];

const sideOf = (table: Readonly<Record<string, unknown>>) =>
  (Object.values(table) as Schema[]).map((schema) => {
    const { $schema: _, ...rest } = toJsonSchema(schema, { typeMode: 'input' });
    return rest;
  });

/** The schema: what a page says and what a shell says, each a message or a batch of them. */
export const bridgeSchema = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: `Messages of the bridge, version ${BRIDGE_VERSION}`,
  description:
    'docs/bridge.md tells what they mean. A receiver leaves fields and kinds that it does not know alone.',
  $defs: {
    ofPage: { anyOf: sideOf(bridgeMessages.ofPage) },
    ofShell: { anyOf: sideOf(bridgeMessages.ofShell) },
    fromPage: { anyOf: [{ $ref: '#/$defs/ofPage' }, batchOf('ofPage')] },
    fromShell: { anyOf: [{ $ref: '#/$defs/ofShell' }, batchOf('ofShell')] },
  },
  anyOf: [{ $ref: '#/$defs/fromPage' }, { $ref: '#/$defs/fromShell' }],
};

function batchOf(side: 'ofPage' | 'ofShell') {
  return { type: 'array', maxItems: MOST, items: { $ref: `#/$defs/${side}` } };
}

if (import.meta.url === new URL(process.argv[1] ?? '', 'file:').href)
  await writeFile(
    new URL('../docs/bridge.schema.json', import.meta.url),
    `${JSON.stringify(bridgeSchema, null, 2)}\n`,
  );
