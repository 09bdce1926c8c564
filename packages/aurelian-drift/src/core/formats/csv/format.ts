import type { FormatDescriptor } from '../format-descriptor.js';
import { CsvReader } from './csv.js';
import { CsvWriter, usedColumns } from './csv-write.js';

/** A table with a header, separated by commas, semicolons or tabs (RFC 4180 for quotes). */
export const CSV = {
  name: 'csv',
  title: 'CSV',
  endings: ['csv', 'tsv'],
  media: 'text/csv',
  recognise: (start) => (/^(?![<{])[^\r\n]*[,;\t]/.test(start) ? 'maybe' : 'no'),
  reading: { by: 'piece', reader: (sink, options) => new CsvReader(sink, options) },
  // With only the columns that have values, where that is known.
  writer: (output, content) => new CsvWriter(output, content && usedColumns(content.trails ?? [])),
} as const satisfies FormatDescriptor;
