import { describe, expect, it, test } from 'vitest';
import sums from './money.json';
import known from './quantities.json';
import { bytes, clock, digits, duration, moments, money, percent } from '../../resources/js/quantity.js';

describe('numbers read as the server writes them', () => {
    it.each(known)('$value', ({ value, ...said }) => {
        expect({ digits: digits(value), duration: duration(value), bytes: bytes(value), percent: percent(value) }).toEqual(said);
    });
});

test.each(sums)('$sum $currency are said as the server says them', ({ sum, currency, said }) => {
    expect(money(sum, currency)).toBe(said);
});

test('round moments reach up to the end and are few', () => {
    expect(moments(60e6)).toEqual([0, 1e7, 2e7, 3e7, 4e7, 5e7, 6e7]);
    expect(moments(3.6e9, 4)).toEqual([0, 9e8, 1.8e9, 2.7e9, 3.6e9]);
    for (const end of [1, 7, 13, 999, 12_345, 7.7e6, 8.1e9, 6e12, 9e13]) {
        const all = moments(end);
        expect(all[0]).toBe(0);
        expect(all.length).toBeLessThanOrEqual(8);
        expect(all.at(-1)).toBeLessThanOrEqual(end);
        expect(end - all.at(-1)).toBeLessThan(all[1]);
    }
});

test('a moment is said in the zone of its reader, on both sides of a change of clocks', () => {
    const before = Date.UTC(2026, 9, 25, 0, 59, 59);
    expect(clock(before, 'UTC')).toBe('00:59:59');
    expect(clock(before, 'Europe/Paris')).toBe('02:59:59');
    expect(clock(before + 1000, 'Europe/Paris')).toBe('02:00:00');
});
