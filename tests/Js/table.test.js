import { beforeEach, describe, expect, it, test } from 'vitest';
import { amount, compare, tables } from '../../resources/js/table.js';
import known from './quantities.json';

describe('what a text is worth', () => {
    it.each([
        ['840 µs', 840], ['12.4 ms', 12_400], ['4 min 10 s', 250e6], ['3 h 5 min', 11_100e6], ['2 d 4 h', 187_200e6], ['1.5 KiB', 1536],
        ['12.3 k', 12_300], ['4.56 M', 4.56e6], ['1\u202f234', 1234], ['1,234', 1234], ['\u22122.5', -2.5], ['\u22124 min 10 s', -250e6],
        ['<0.1%', 0.1], ['42%', 42], ['0', 0], ['7 of 9', 7], ['12 modelled', 12], ['3 rows', 3], ['2026-11-20', 2026],
        ['words', null], ['', null], ['\u2013', null], ['Mon 3 Nov', null],
    ])('%s', (text, value) => (value === null ? expect(amount(text)).toBeNull() : expect(amount(text)).toBeCloseTo(value, 6)));

    it.each(known)('$duration and $bytes are read back', ({ value, duration, bytes }) => {
        const near = (read, of) => Math.abs(read - of) <= 0.02 * Math.abs(of) + 0.5;
        expect(near(amount(duration), value)).toBe(true);
        expect(near(amount(bytes), value)).toBe(true);
    });
});

test('quantities are compared by size, words by letters, nothing comes last either way', () => {
    const sorted = (list, down) => [...list].sort((a, b) => compare(a, b, down));
    expect(sorted(['1.2 s', '900 ms', '\u2013', '2 min'], false)).toEqual(['900 ms', '1.2 s', '2 min', '\u2013']);
    expect(sorted(['1.2 s', '900 ms', '\u2013', '2 min'], true)).toEqual(['2 min', '1.2 s', '900 ms', '\u2013']);
    expect(sorted(['node 10', 'node 9', 'Node 1', ''], false)).toEqual(['Node 1', 'node 9', 'node 10', '']);
});

describe('a table that sorts', () => {
    const names = () => [...document.querySelectorAll('tbody td:first-child')].map((cell) => cell.textContent).join('');
    const press = (i) => document.querySelectorAll('th button')[i].click();
    const page = () => {
        document.body.innerHTML = `<table data-sorts="Two things"><thead><tr><th>Name</th><th class="n">Time</th><th></th>
            <th><a href="?by=x">Linked</a></th></tr></thead><tbody><tr><td>b</td><td>2 s</td><td></td><td></td></tr>
            <tr><td>c</td><td>900 ms</td><td></td><td></td></tr><tr><td>a</td><td>\u2013</td><td></td><td></td></tr></tbody></table>`;
        tables(document);
    };
    beforeEach(() => {
        window.history.replaceState(null, '', '/');
        page();
    });

    it('has a button where a column can be sorted, and leaves links alone', () => {
        expect(document.querySelectorAll('th button').length).toBe(2);
        tables(document);
        expect(document.querySelectorAll('th button').length).toBe(2);
    });
    it('goes up and down by words and back to how it came', () => {
        press(0);
        expect(names()).toBe('abc');
        press(0);
        expect([names(), document.querySelector('th').getAttribute('aria-sort')]).toEqual(['cba', 'descending']);
        press(0);
        expect([names(), document.querySelector('th').getAttribute('aria-sort'), window.location.search]).toEqual(['bca', null, '']);
    });
    it('begins with the largest quantity', () => {
        press(1);
        expect(names()).toBe('bca');
        press(1);
        expect(names()).toBe('cba');
    });
    it('keeps the order in the address, and finds it there', () => {
        press(1);
        press(1);
        expect(window.location.search).toBe('?order-two-things=1-up');
        page();
        expect([names(), document.querySelectorAll('th')[1].getAttribute('aria-sort')]).toEqual(['cba', 'ascending']);
    });
    it.each(['9-up', '1-sideways', '<b>', '0'])('takes no notice of %s in the address', (odd) => {
        window.history.replaceState(null, '', `/?order-two-things=${encodeURIComponent(odd)}`);
        page();
        expect(names()).toBe('bca');
    });
    it('is left as it is where rows belong together', () => {
        document.body.innerHTML = '<table data-sorts="x"><thead><tr><th>A</th></tr></thead><tbody></tbody><tbody></tbody></table>';
        tables(document);
        expect(document.querySelector('button')).toBeNull();
    });
});
