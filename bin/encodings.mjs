// Writes columns with a library of others, each with the encoding asked for, and prints the sizes.
import { readFileSync } from 'node:fs';
import { parquetWriteBuffer } from 'hyparquet-writer';

const columns = JSON.parse(readFileSync(process.argv[2], 'utf8'));
const sizes = columns.map(({ name, type, encoding, data }) => {
    const values = type === 'INT64' ? data.map((value) => BigInt(value)) : data;
    return parquetWriteBuffer({ codec: 'UNCOMPRESSED', columnData: [{ name, data: values, type, nullable: false, encoding,
        columnIndex: false, offsetIndex: false }] }).byteLength;
});
console.log(JSON.stringify(sizes));
