// Writes a Parquet file of one column with a schema of its own: node odd.mjs PATH ELEMENT VALUES
import { writeFileSync } from 'node:fs';
import { parquetWriteBuffer } from 'hyparquet-writer';

const [path, element, values] = process.argv.slice(2);
const schema = [{ name: 'root', num_children: 1 }, { name: 'x', repetition_type: 'REQUIRED', ...JSON.parse(element) }];
const wide = schema[1].type === 'INT64';
const bytes = schema[1].type === 'BYTE_ARRAY' && !schema[1].converted_type;
const data = JSON.parse(values).map((v) => (wide ? BigInt(v) : bytes ? Uint8Array.from(v) : v));
const encoding = schema[1].encoding;
delete schema[1].encoding;
const buffer = parquetWriteBuffer({ codec: 'UNCOMPRESSED', statistics: false, schema, columnData: [{ name: 'x', data, encoding }] });
writeFileSync(path, Buffer.from(buffer));
