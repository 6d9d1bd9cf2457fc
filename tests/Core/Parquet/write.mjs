// Writes a Parquet file with a library of others.
import { writeFileSync } from 'node:fs';
import { parquetWriteBuffer } from 'hyparquet-writer';

const n = 1200;
const list = (make) => Array.from({ length: n }, (_, i) => make(i));
const buffer = parquetWriteBuffer({
    codec: 'UNCOMPRESSED',
    columnData: [
        { name: 'id', data: list((i) => BigInt(i) - 600n), type: 'INT64', nullable: false },
        { name: 'ratio', data: list((i) => (i % 7 === 0 ? null : i / 8)), type: 'DOUBLE' },
        { name: 'word', data: list((i) => (i % 5 === 0 ? null : `w${i % 40}`)), type: 'STRING' },
        { name: 'yes', data: list((i) => (i % 11 === 0 ? null : i % 3 === 0)), type: 'BOOLEAN' },
        { name: 'small', data: list((i) => i % 100), type: 'INT32' },
        { name: 'at', data: list((i) => new Date(Date.UTC(2026, 0, 1) + i * 1000)), type: 'TIMESTAMP' },
    ],
});
writeFileSync(process.argv[2], Buffer.from(buffer));
