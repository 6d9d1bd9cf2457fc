import { beforeEach, describe, expect, it } from 'vitest';
import { columns } from '../../resources/js/columns.js';
import { exportTables, texts } from '../../resources/js/export-table.js';

const shown = () => [...document.querySelectorAll('tbody tr:first-child td')].filter((cell) => !cell.hidden).map((c) => c.textContent);
const box = (i) => document.querySelectorAll('.columns input')[i];
const page = (search = '', wide = true) => {
    window.history.replaceState(null, '', `/page${search}`);
    const cells = (tag, list) => list.map((text) => `<${tag}>${text}</${tag}>`).join('');
    const last = wide ? `<tr>${cells('td', ['e', '5', '6', '', '8'])}</tr>` : '<tr><td colspan="5">nothing</td></tr>';
    document.body.innerHTML = `<div class="scroll"><table data-columns="Five things" data-export="Five things"><thead><tr>${
        cells('th', ['Name', '<a href="/page?by=rows">Rows ↓</a>', 'Time', '', 'Size'])}</tr></thead><tbody><tr>${
        cells('td', ['a', '1', '2', 'x', '4'])}</tr>${last}</tbody></table></div>`;
    exportTables(document);
    columns(document);
};

describe('columns of a table', () => {
    beforeEach(() => page());

    it('can be left out and brought back, but for the first and those without a name', () => {
        expect(document.querySelectorAll('.columns input').length).toBe(3);
        box(1).click();
        expect(shown()).toEqual(['a', '1', 'x', '4']);
        expect(window.location.search).toBe('?without-five-things=2');
        expect(document.querySelector('.columns summary').textContent).toBe('Columns (4 of 5)');
        box(2).click();
        expect(window.location.search).toBe('?without-five-things=2.4');
        box(1).click();
        box(2).click();
        expect([shown().length, window.location.search]).toEqual([5, '']);
    });
    it('stay left out where the server sorts', () => {
        box(1).click();
        expect(document.querySelector('th a').href).toMatch(/\/page\?by=rows&without-five-things=2$/);
        box(1).click();
        expect(document.querySelector('th a').href).toMatch(/\/page\?by=rows$/);
        expect(document.querySelector('.columns label').textContent).toBe(' Rows');
    });
    it('are taken away as they are shown', () => {
        box(0).click();
        expect(texts(document.querySelector('table'))[0]).toEqual(['Name', 'Time', '', 'Size']);
    });
    it('are found in the address, whatever else stands there', () => {
        page('?without-five-things=1.9.0&window=today');
        expect(shown()).toEqual(['a', '2', 'x', '4']);
        expect(box(0).checked).toBe(false);
        page('?without-five-things=<1>');
        expect(shown().length).toBe(5);
    });
    it('are offered once, and not where a row spans several of them', () => {
        columns(document);
        expect(document.querySelectorAll('.columns').length).toBe(1);
        page('', false);
        expect(document.querySelectorAll('.columns').length).toBe(0);
    });
    it('close with Escape, which goes no further', () => {
        let heard = 0;
        document.addEventListener('keydown', () => { heard += 1; });
        const choice = document.querySelector('.columns');
        choice.open = true;
        choice.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }));
        expect([choice.open, heard]).toEqual([false, 0]);
    });
});
