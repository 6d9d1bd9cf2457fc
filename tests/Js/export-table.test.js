import { unzipSync, strFromU8 } from 'fflate';
import { describe, expect, it, test } from 'vitest';
import writeSheet from 'write-excel-file/universal';
import { csv, exportTables, json, sheet, texts } from '../../resources/js/export-table.js';

const rows = [
    ['Table', 'Rows', 'Time', 'Stored', 'Share', 'Mixed', ''],
    ['=field.pick', '1234', '4 min 10 s', '1.5 KiB', '12.5%', '3 ms', ''],
    ['-field.bed', '12.3 k', '840 µs', '\u2013', '0%', '3 B', ''],
    ['a "b", c', '\u22122', '', '20 B', '', 'words', ''],
];

test('the texts of a table are as it shows them, with numbers programs can read', () => {
    document.body.innerHTML = `<table data-export="Two things"><thead><tr><th><button>Name</button></th><th>Rows</th></tr></thead>
        <tbody><tr><td> a
            b </td><td>1\u202f234\u202f567</td></tr></tbody></table>`;
    expect(texts(document.querySelector('table'))).toEqual([['Name', 'Rows'], ['a b', '1234567']]);
});

test('each table gets its three ways out once', () => {
    exportTables(document);
    exportTables(document);
    expect([...document.querySelectorAll('.taking button')].map((button) => button.getAttribute('aria-label')))
        .toEqual(['CSV of Two things', 'JSON of Two things', 'XLSX of Two things']);
});

test('CSV quotes, and does not let a text be run as a formula', () => {
    const lines = csv(rows).split('\r\n');
    expect(lines[1].startsWith('"\'=field.pick","1234"')).toBe(true);
    expect(lines[2].startsWith('"\'-field.bed"')).toBe(true);
    expect(lines[3].startsWith('"a ""b"", c"')).toBe(true);
});

test('JSON has a row for each row, by heading', () => {
    const read = JSON.parse(json(rows));
    expect([read.length, read[0].Rows, read[0]['column 7'], read[2].Table]).toEqual([3, '1234', '', 'a "b", c']);
});

describe('a spreadsheet', () => {
    const cells = sheet(rows);
    it('has columns of one unit, named in the heading', () => {
        expect(cells[0].map((cell) => cell.value)).toEqual(['Table', 'Rows', 'Time (s)', 'Stored (bytes)', 'Share', 'Mixed', '']);
        expect(cells.slice(1).map((row) => row[1].value)).toEqual([1234, 12300, -2]);
        expect(cells.slice(1, 3).map((row) => row[2].value)).toEqual([250, 0.00084]);
        expect(cells[3][2]).toBeNull();
        expect(cells.slice(1).map((row) => row[3].value)).toEqual([1536, '\u2013', 20]);
        expect([cells[1][4].value, cells[1][4].format]).toEqual([0.125, '0.0%']);
    });
    it('leaves words, and what is mixed, as texts', () => {
        expect(cells.slice(1).map((row) => row[0])).toEqual(rows.slice(1).map((row) => ({ value: row[0], type: String })));
        expect(cells.slice(1).map((row) => row[5].value)).toEqual(['3 ms', '3 B', 'words']);
        expect(cells[1][6]).toBeNull();
    });
    it('is a file in which nothing is a formula', async () => {
        const blob = await writeSheet(cells, { sheet: 'Tables' }).toBlob();
        const bytes = await new Promise((resolve) => {
            const reader = new FileReader();
            reader.onload = () => resolve(new Uint8Array(reader.result));
            reader.readAsArrayBuffer(blob);
        });
        const files = unzipSync(bytes);
        const xml = strFromU8(files['xl/worksheets/sheet1.xml']);
        expect(xml).toMatch(/<v>250<\/v>/);
        expect(xml).not.toMatch(/<f[ >]/);
        expect(Object.values(files).map((file) => strFromU8(file)).join('')).toContain('=field.pick');
    });
});
