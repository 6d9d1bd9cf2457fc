// Reads the footers of all Parquet files of a folder with a library of others, and prints the seconds it took.
import { readdirSync, openSync, readSync, fstatSync, closeSync } from 'node:fs';
import { parquetMetadata } from 'hyparquet';

const folder = process.argv[2];
const names = readdirSync(folder).filter((name) => name.endsWith('.parquet'));
const pass = () => {
    let rows = 0n;
    for (const name of names) {
        const handle = openSync(`${folder}/${name}`, 'r');
        const size = fstatSync(handle).size;
        // Enough of the end for the whole footer, as the library's own remote reader takes it.
        const length = Math.min(size, 32768);
        const buffer = Buffer.alloc(length);
        readSync(handle, buffer, 0, length, size - length);
        closeSync(handle);
        const meta = parquetMetadata(buffer.buffer.slice(buffer.byteOffset, buffer.byteOffset + length));
        rows += meta.num_rows;
        for (const group of meta.row_groups) for (const column of group.columns) if (column.meta_data.statistics === undefined) rows -= 1n;
    }
    return rows;
};
pass();
const seconds = [];
let rows = 0n;
for (let i = 0; i < 3; i++) {
    const start = process.hrtime.bigint();
    rows = pass();
    seconds.push(Number(process.hrtime.bigint() - start) / 1e9);
}
console.log(JSON.stringify({ files: names.length, rows: rows.toString(), seconds: seconds.sort()[1] }));
