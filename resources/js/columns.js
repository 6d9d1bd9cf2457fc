/**
 * Columns of a table can be left out, but for the first one, which names its rows. What is left out stands in the address, so that a table
 * can be shared and printed as it is seen; what is taken away is what is shown.
 */
export function columns(root) {
    for (const table of root.querySelectorAll?.('table[data-columns]:not([data-live-columns])') ?? []) {
        const head = table.tHead?.rows.length === 1 ? table.tHead.rows[0] : null;
        const plain = head && [...table.rows].every((row) => row.cells.length === head.cells.length);
        if (!plain || head.cells.length < 4) continue;
        table.dataset.liveColumns = '1';
        // Before sorting and taking away change the heads.
        const names = [...head.cells].map((cell) => cell.textContent.replace(/[\s\u2191\u2193]+/g, ' ').trim());
        const left = kept(table, names.length);
        const choice = document.createElement('details');
        choice.className = 'columns';
        const summary = document.createElement('summary');
        const fields = document.createElement('fieldset');
        const legend = document.createElement('legend');
        legend.className = 'visually-hidden';
        legend.textContent = `Columns of ${table.dataset.columns}`;
        fields.append(legend);
        const apply = () => {
            show(table, left);
            summary.textContent = left.size === 0 ? 'Columns' : `Columns (${names.length - left.size} of ${names.length})`;
        };
        names.forEach((text, column) => {
            if (column === 0 || text === '') return;
            const label = document.createElement('label');
            const box = document.createElement('input');
            box.type = 'checkbox';
            box.className = 'form-check-input';
            box.checked = !left.has(column);
            box.addEventListener('change', () => {
                if (box.checked) left.delete(column);
                else left.add(column);
                apply();
                keep(table, left);
            });
            label.append(box, ` ${text}`);
            fields.append(label);
        });
        choice.append(summary, fields);
        choice.addEventListener('keydown', (event) => {
            if (event.key !== 'Escape' || !choice.open) return;
            event.stopPropagation();
            choice.open = false;
            summary.focus();
        });
        apply();
        place(table, choice);
    }
}

function place(table, choice) {
    const around = table.closest('.scroll') ?? table;
    let tools = around.nextElementSibling;
    if (!tools?.matches('.tools')) {
        tools = document.createElement('div');
        tools.className = 'tools';
        around.after(tools);
    }
    tools.prepend(choice);
}

function show(table, left) {
    // The order is another page's matter where the server sorts.
    for (const link of table.tHead.querySelectorAll('a[href]')) link.href = marked(table, left, link.href);
    for (const row of table.rows) [...row.cells].forEach((cell, column) => cell.toggleAttribute('hidden', left.has(column)));
}

const name = (table) => `without-${table.dataset.columns.toLowerCase().replace(/\W+/g, '-')}`;

function marked(table, left, address) {
    const url = new URL(address);
    if (left.size > 0) url.searchParams.set(name(table), [...left].sort((a, b) => a - b).join('.'));
    else url.searchParams.delete(name(table));
    return url.href;
}

const keep = (table, left) => window.history.replaceState(null, '', marked(table, left, window.location.href));

function kept(table, count) {
    const said = new URL(window.location.href).searchParams.get(name(table)) ?? '';
    return new Set(/^\d{1,2}(\.\d{1,2})*$/.test(said) ? said.split('.').map(Number).filter((column) => column > 0 && column < count) : []);
}
