/**
 * Tables of the pages: each column can be sorted by what it says, also where that is a quantity with its unit. The order stands in the
 * address. A third press brings back the order the page came with, which is the one it is about.
 */
const UNITS = { µs: 1, ms: 1e3, s: 1e6, min: 6e7, h: 3.6e9, d: 8.64e10, B: 1, KiB: 1024, MiB: 1024 ** 2, GiB: 1024 ** 3, TiB: 1024 ** 4,
    PiB: 1024 ** 5, k: 1e3, M: 1e6, G: 1e9 };
const PART = /^([\u2212-]?[\d\u202f,]*\d(?:\.\d+)?)\s*(µs|ms|s|min|h|d|B|KiB|MiB|GiB|TiB|PiB|k|M|G)?(?![\w])\s*/;

/** What a quantity is in its smallest unit; null where the text is none. "4 min 10 s" is one quantity. */
export function amount(text) {
    let rest = text.trim().replace(/^<\s*/, '');
    let sum = null;
    let sign = 1;
    for (let match = rest.match(PART); match; match = rest.match(PART)) {
        const value = Number(match[1].replace(/[\u202f,]/g, '').replace('\u2212', '-'));
        if (sum === null && (Object.is(value, -0) || value < 0)) sign = -1;
        sum = (sum ?? 0) + Math.abs(value) * (UNITS[match[2]] ?? 1);
        rest = rest.slice(match[0].length);
        if (!match[2] || !/^\d/.test(rest)) break;
    }
    return sum === null ? null : sign * sum;
}

const said = (cell) => (cell?.dataset.value ?? cell?.textContent ?? '').replace(/[^\S\u202f]+/g, ' ').trim();

/** Quantities by size, words by the alphabet, what says nothing last. */
export function compare(a, b, down) {
    const empty = (text) => text === '' || text === '\u2013' || text === 'NULL';
    if (empty(a) || empty(b)) return Number(empty(a)) - Number(empty(b));
    const [x, y] = [amount(a), amount(b)];
    const order = x !== null && y !== null ? x - y : a.localeCompare(b, 'en', { numeric: true });
    return down ? -order : order;
}

export function tables(root) {
    for (const table of root.querySelectorAll?.('table[data-sorts]:not([data-live-sort])') ?? []) {
        const head = table.tHead?.rows[table.tHead.rows.length - 1];
        if (!head || table.tBodies.length !== 1 || table.tHead.rows.length !== 1) continue;
        table.dataset.liveSort = '1';
        const first = [...table.tBodies[0].rows];
        [...head.cells].forEach((cell, column) => {
            if (cell.querySelector('a, button, input') || said(cell) === '' || cell.colSpan > 1) return;
            const button = document.createElement('button');
            button.type = 'button';
            button.className = 'plain sorts';
            button.append(...cell.childNodes);
            cell.append(button);
            button.addEventListener('click', () => {
                const now = cell.getAttribute('aria-sort');
                const numeric = cell.classList.contains('n');
                const next = { none: numeric ? 'descending' : 'ascending', ascending: numeric ? null : 'descending',
                    descending: numeric ? 'ascending' : null }[now ?? 'none'];
                order(table, first, column, next);
                keep(table, column, next);
            });
        });
        const wanted = kept(table);
        if (wanted) order(table, first, ...wanted);
    }
}

function order(table, first, column, direction) {
    [...table.tHead.rows[0].cells].forEach((cell, i) => {
        if (i === column && direction) cell.setAttribute('aria-sort', direction);
        else cell.removeAttribute('aria-sort');
    });
    const rows = direction
        ? [...first].sort((a, b) => compare(said(a.cells[column]), said(b.cells[column]), direction === 'descending')) : first;
    table.tBodies[0].append(...rows);
}

const name = (table) => `order-${table.dataset.sorts.toLowerCase().replace(/\W+/g, '-')}`;

function keep(table, column, direction) {
    const url = new URL(window.location.href);
    if (direction) url.searchParams.set(name(table), `${column}-${direction === 'descending' ? 'down' : 'up'}`);
    else url.searchParams.delete(name(table));
    window.history.replaceState(null, '', url);
}

function kept(table) {
    const match = new URL(window.location.href).searchParams.get(name(table))?.match(/^(\d{1,2})-(up|down)$/);
    return match && Number(match[1]) < table.tHead.rows[0].cells.length
        ? [Number(match[1]), match[2] === 'down' ? 'descending' : 'ascending'] : null;
}
