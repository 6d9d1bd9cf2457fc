import { amount } from './table.js';

/** Any table marked for it can be taken away as it is shown, as CSV, JSON or a spreadsheet. */
export function exportTables(root) {
    for (const table of root.querySelectorAll?.('table[data-export]:not([data-live])') ?? []) {
        table.dataset.live = '1';
        const tools = document.createElement('div');
        tools.className = 'tools taking';
        for (const format of ['CSV', 'JSON', 'XLSX']) {
            const button = document.createElement('button');
            button.type = 'button';
            button.className = 'plain';
            button.textContent = format;
            button.setAttribute('aria-label', `${format} of ${table.dataset.export}`);
            button.addEventListener('click', () => save(table, format));
            tools.append(button);
        }
        (table.closest('.scroll') ?? table).after(tools);
    }
}

/** The texts of a table; numbers without what separates their thousands, so that programs can read them. */
export function texts(table) {
    const text = (cell) => (cell.innerText ?? cell.textContent).replace(/(\d)\u202f(?=\d{3})/g, '$1').replace(/\s+/g, ' ').trim();
    return [...table.rows].map((row) => [...row.cells].filter((cell) => !cell.hidden).map(text));
}

export function csv(rows) {
    // A cell that begins like a formula would be run by spreadsheet programs.
    const quoted = (cell) => `"${(/^[=+@-]/.test(cell) ? `'${cell}` : cell).replaceAll('"', '""')}"`;
    return rows.map((row) => row.map(quoted).join(',')).join('\r\n');
}

export function json(rows) {
    return JSON.stringify(rows.slice(1).map((row) => Object.fromEntries(row.map((cell, i) => [rows[0][i] || `column ${i + 1}`, cell]))),
        null, 1);
}

const SIZE = '[\u2212-]?\\d+(\\.\\d+)?';
const PARTS = (units) => new RegExp(`^${SIZE} (${units})( \\d+ (${units}))?$`);

/** What a column may hold throughout: how its texts are known, what their amount is divided by, and what it is then. */
const KINDS = [
    { is: new RegExp(`^${SIZE}( [kMG])?$`), per: 1, unit: '' },
    { is: PARTS('µs|ms|s|min|h|d'), per: 1e6, unit: 's' },
    { is: PARTS('B|KiB|MiB|GiB|TiB|PiB'), per: 1, unit: 'bytes' },
    { is: new RegExp(`^${SIZE}%$`), per: 100, unit: '', format: '0.0%' },
];

/** What a spreadsheet can reckon with: a column of quantities becomes numbers of one unit, which its heading then names. */
export function sheet(rows) {
    const [head = [], ...body] = rows;
    const kinds = head.map((_, column) => {
        const said = body.map((row) => row[column] ?? '').filter((text) => text !== '' && text !== '\u2013');
        return said.length === 0 ? undefined : KINDS.find((kind) => said.every((text) => kind.is.test(text)));
    });
    const value = (text, kind) => {
        if (text === '') return null;
        if (!kind || text === '\u2013') return { value: text, type: String };
        return { value: amount(text) / kind.per, type: Number, ...(kind.format ? { format: kind.format } : {}) };
    };
    return [
        head.map((text, column) => ({
            value: kinds[column]?.unit ? `${text} (${kinds[column].unit})` : text, type: String, fontWeight: 'bold',
        })),
        ...body.map((row) => row.map((text, column) => value(text, kinds[column]))),
    ];
}

async function save(table, format) {
    const rows = texts(table);
    const name = table.dataset.export;
    const blob = format === 'XLSX'
        ? await (await import('write-excel-file/universal')).default(sheet(rows), {
            // Programs refuse longer names of sheets, and some characters in them.
            sheet: name.replace(/[\\/?*[\]:]/g, ' ').slice(0, 31), stickyRowsCount: 1,
        }).toBlob()
        : new Blob([format === 'CSV' ? csv(rows) : json(rows)], { type: format === 'CSV' ? 'text/csv' : 'application/json' });
    const link = document.createElement('a');
    link.href = URL.createObjectURL(blob);
    link.download = `${name.toLowerCase().replace(/\W+/g, '-')}.${format.toLowerCase()}`;
    link.click();
    // After the click, so that whatever saves it has taken it.
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
