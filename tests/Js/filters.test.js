import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { filters, PAUSE_MS } from '../../resources/js/filters.js';

describe('filters', () => {
    // One document keeps what listens to it, so it is set up once.
    const sent = [];
    filters(document, (form) => sent.push([form.id, new URLSearchParams(new FormData(form)).toString()]));
    const field = (id) => document.getElementById(id);
    const type = (id, text) => {
        field(id).value = text;
        field(id).dispatchEvent(new Event('input', { bubbles: true }));
    };
    const change = (id) => field(id).dispatchEvent(new Event('change', { bubbles: true }));
    beforeEach(() => {
        vi.useFakeTimers();
        sent.length = 0;
        document.body.innerHTML = `<form id="a" data-filters><input id="words" type="search" name="words"><input id="gib" name="gib"
            value="1"><select id="state" name="state"><option value="">any</option><option>open</option></select><input id="box"
            type="checkbox" name="with[]" value="lock"></form><form id="b"><input id="other" type="search" name="words"></form>`;
    });
    afterEach(() => { vi.runAllTimers(); vi.useRealTimers(); });

    it('act when nobody has typed for a moment, once', () => {
        type('words', 'h');
        vi.advanceTimersByTime(PAUSE_MS - 1);
        type('words', 'ha');
        vi.advanceTimersByTime(PAUSE_MS - 1);
        expect(sent).toEqual([]);
        vi.advanceTimersByTime(1);
        expect(sent).toEqual([['a', 'words=ha&gib=1&state=']]);
        change('words');
        expect(sent.length).toBe(1);
    });

    it('act at once where the field is left before the pause is over', () => {
        type('words', 'ha');
        change('words');
        expect(sent.length).toBe(1);
        vi.advanceTimersByTime(PAUSE_MS);
        expect(sent.length).toBe(1);
    });

    it('act when a choice is made, with what is typed so far', () => {
        type('words', 'ha');
        field('state').value = 'open';
        change('state');
        field('box').checked = true;
        change('box');
        vi.advanceTimersByTime(PAUSE_MS);
        expect(sent.map((one) => one[1])).toEqual(['words=ha&gib=1&state=open', 'words=ha&gib=1&state=open&with%5B%5D=lock']);
    });

    it('wait for the end of a number', () => {
        type('gib', '0.');
        vi.advanceTimersByTime(PAUSE_MS);
        expect(sent).toEqual([]);
        field('gib').value = '0.25';
        change('gib');
        expect(sent).toEqual([['a', 'words=&gib=0.25&state=']]);
    });

    it('leave other forms alone', () => {
        type('other', 'x');
        change('other');
        vi.advanceTimersByTime(PAUSE_MS);
        expect(sent).toEqual([]);
    });

    it('send no empty fields', () => {
        const parameters = { words: '', state: 'open', gib: '0' };
        field('a').dispatchEvent(new CustomEvent('htmx:configRequest', { bubbles: true, detail: { parameters } }));
        expect(parameters).toEqual({ state: 'open', gib: '0' });
        const others = { words: '' };
        field('b').dispatchEvent(new CustomEvent('htmx:configRequest', { bubbles: true, detail: { parameters: others } }));
        expect(others).toEqual({ words: '' });
    });

    it('do not take away what is typed while an answer comes', () => {
        const swap = () => {
            const detail = { shouldSwap: true };
            field('a').dispatchEvent(new CustomEvent('htmx:beforeSwap', { bubbles: true, detail }));
            return detail.shouldSwap;
        };
        expect(swap()).toBe(true);
        type('words', 'more');
        expect(swap()).toBe(false);
        vi.advanceTimersByTime(PAUSE_MS);
        expect(swap()).toBe(true);
    });

    it('show the page itself where something went wrong', () => {
        const submit = vi.spyOn(HTMLFormElement.prototype, 'submit').mockImplementation(() => {});
        for (const name of ['htmx:responseError', 'htmx:sendError']) {
            field('a').dispatchEvent(new CustomEvent(name, { bubbles: true }));
            field('b').dispatchEvent(new CustomEvent(name, { bubbles: true }));
        }
        expect(submit).toHaveBeenCalledTimes(2);
        submit.mockRestore();
    });
});
