// Reads a Parquet file with a library of others and prints its rows as JSON.
import { readFileSync } from 'node:fs';
import { parquetReadObjects, parquetMetadata } from 'hyparquet';
import { gunzipSync } from 'node:zlib';

const bytes = readFileSync(process.argv[2]);
const file = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength);
const rows = await parquetReadObjects({ file, compressors: { GZIP: (input) => gunzipSync(input) } });
const plain = (value) => {
    if (value === null || value === undefined) return null;
    if (typeof value === 'bigint') return value.toString();
    if (value instanceof Date) return value.toISOString();
    return value;
};
const meta = parquetMetadata(file);
const stats = meta.row_groups[0].columns.map((column) => {
    const s = column.meta_data.statistics ?? {};
    return [column.meta_data.path_in_schema[0], plain(s.min_value), plain(s.max_value), plain(s.null_count)];
});
console.log(JSON.stringify({ rows: rows.map((row) => Object.values(row).map(plain)), stats }));
