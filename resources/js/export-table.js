/** Any table marked for it can be taken away as it is shown, as CSV or JSON. */
export function exportTables(root) {
    for (const table of root.querySelectorAll?.('table[data-export]:not([data-live])') ?? []) {
        table.dataset.live = '1';
        const tools = document.createElement('div');
        tools.className = 'tools taking';
        for (const format of ['CSV', 'JSON']) {
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

function save(table, format) {
    const cells = (row) => [...row.cells].map((cell) => cell.innerText.replace(/\s+/g, ' ').trim());
    const rows = [...table.rows].map(cells);
    const quoted = (cell) => `"${(/^[=+@-]/.test(cell) ? `'${cell}` : cell).replaceAll('"', '""')}"`;
    const text = format === 'CSV'
        ? rows.map((row) => row.map(quoted).join(',')).join('\r\n')
        : JSON.stringify(rows.slice(1).map((row) => Object.fromEntries(row.map((cell, i) => [rows[0][i] || `column ${i + 1}`, cell]))),
            null, 1);
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: format === 'CSV' ? 'text/csv' : 'application/json' }));
    link.download = `${table.dataset.export.toLowerCase().replace(/\W+/g, '-')}.${format.toLowerCase()}`;
    link.click();
    URL.revokeObjectURL(link.href);
}
