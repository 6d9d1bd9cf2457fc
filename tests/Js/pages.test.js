import { afterEach, beforeEach, describe, expect, it, test, vi } from 'vitest';
import { budgets } from '../../resources/js/budget.js';
import { exportTables } from '../../resources/js/export-table.js';
import { figures } from '../../resources/js/figures.js';
import { keyboard } from '../../resources/js/keyboard.js';
import { upload } from '../../resources/js/upload.js';

describe('a table taken away', () => {
    let saved;
    beforeEach(() => {
        saved = [];
        document.body.innerHTML = `<table data-export="Two plans"><thead><tr><th>Step</th><th>Rows</th><th></th></tr></thead>
            <tbody><tr><td>=Read "a"</td><td>1 000</td><td>x</td></tr><tr><td>Join,
            two</td><td></td><td>y</td></tr></tbody></table>`;
        // A document without a layout knows no inner text.
        Object.defineProperty(HTMLElement.prototype, 'innerText', { configurable: true, get() { return this.textContent; } });
        URL.createObjectURL = (blob) => { saved.push(blob); return 'blob:x'; };
        URL.revokeObjectURL = () => {};
        vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function click() { saved.push(this.download); });
        vi.stubGlobal('Blob', class { constructor([text]) { this.text = text; } });
        exportTables(document);
    });
    afterEach(() => { vi.restoreAllMocks(); vi.unstubAllGlobals(); });
    const press = (text) => [...document.querySelectorAll('button')].find((button) => button.textContent === text).click();

    it('as CSV is quoted, and no cell is read as a formula', () => {
        press('CSV');
        expect(saved[1]).toBe('two-plans.csv');
        expect(saved[0].text.split('\r\n')).toEqual(['"Step","Rows",""', '"\'=Read ""a""","1 000","x"', '"Join, two","","y"']);
    });
    it('as JSON names its columns, also those without a name', () => {
        press('JSON');
        expect(saved[1]).toBe('two-plans.json');
        expect(JSON.parse(saved[0].text)[1]).toEqual({ Step: 'Join, two', Rows: '', 'column 3': 'y' });
    });
    it('has its three buttons once', () => {
        exportTables(document);
        expect(document.querySelectorAll('button').length).toBe(3);
        expect(document.querySelector('button').getAttribute('aria-label')).toBe('CSV of Two plans');
    });
});

describe('keys outside of fields', () => {
    let sheet;
    const press = (key, options = {}, target = document.body) => target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true,
        cancelable: true, ...options }));
    beforeEach(() => {
        document.body.innerHTML = `<a data-key="t" href="#t">Tune</a><input data-key="/" value="words"><a data-back href="#back">Back</a>
            <p data-row><a href="#1">1</a></p><p data-row><a href="#2">2</a></p><dialog id="key-sheet"></dialog>
            <div contenteditable="true" tabindex="0"></div>`;
        vi.stubGlobal('CSS', { escape: (text) => text.replace(/\W/g, '\\$&') });
        Element.prototype.scrollIntoView = () => {};
        sheet = document.getElementById('key-sheet');
        sheet.showModal = vi.fn(() => { sheet.open = true; });
    });
    keyboard(document);

    it('open what carries them, or go into the field', () => {
        const opened = vi.fn((event) => event.preventDefault());
        document.querySelector('[data-key="t"]').addEventListener('click', opened);
        press('t');
        expect(opened).toHaveBeenCalledTimes(1);
        press('/');
        expect(document.activeElement.tagName).toBe('INPUT');
    });
    it('do nothing with a modifier, in a field or in an editor, but Escape leaves it', () => {
        const opened = vi.fn((event) => event.preventDefault());
        document.querySelector('[data-key="t"]').addEventListener('click', opened);
        press('t', { ctrlKey: true });
        press('t', {}, document.querySelector('input'));
        press('t', {}, document.querySelector('[contenteditable]'));
        expect(opened).not.toHaveBeenCalled();
        document.querySelector('input').focus();
        press('Escape', {}, document.querySelector('input'));
        expect(document.activeElement).toBe(document.body);
    });
    it('move through the rows and stop at both ends', () => {
        const at = () => [...document.querySelectorAll('[data-row]')].findIndex((row) => row.classList.contains('at'));
        press('k');
        expect(at()).toBe(0);
        press('j');
        press('j');
        press('j');
        expect(at()).toBe(1);
        expect(document.activeElement.textContent).toBe('2');
        press('k');
        expect(at()).toBe(0);
    });
    it('show the sheet, and rest while it is open', () => {
        press('?');
        expect(sheet.showModal).toHaveBeenCalledTimes(1);
        press('?');
        expect(sheet.showModal).toHaveBeenCalledTimes(1);
        sheet.open = false;
        const back = vi.fn((event) => event.preventDefault());
        document.querySelector('[data-back]').addEventListener('click', back);
        press('Escape');
        expect(back).toHaveBeenCalledTimes(1);
    });
});

describe('a file that is sent', () => {
    let request;
    beforeEach(() => {
        document.body.innerHTML = '<form action="/imports"><input name="cluster" value="fernhill"></form>';
        vi.stubGlobal('XMLHttpRequest', class {
            constructor() { request = this; this.upload = {}; this.headers = {}; }
            open(method, address) { this.to = `${method} ${address}`; }
            setRequestHeader(name, value) { this.headers[name] = value; }
            send(data) { this.sent = data; }
            abort() { this.aborted = true; }
        });
    });
    afterEach(() => vi.unstubAllGlobals());
    const begin = () => {
        const state = upload();
        state.send({ target: document.querySelector('form'), preventDefault: () => {} });
        return state;
    };

    it('shows how much is sent and can be stopped', () => {
        const state = begin();
        expect([request.to, state.sending, request.sent.get('cluster')]).toEqual(['POST http://localhost:3000/imports', true, 'fernhill']);
        request.upload.onprogress({ loaded: 1, total: 3 });
        expect(state.said).toBe('33% sent');
        state.stop();
        expect([request.aborted, state.sending, state.percent, state.idle]).toEqual([true, false, 0, true]);
    });
    it.each([
        [413, '', 'The file is larger than this server accepts. Compress it with gzip, or use the import command.'],
        [422, '{"message":"Line 3 is no record."}', 'Line 3 is no record.'],
        [500, '<html>', 'The server refused the file (500).'],
    ])('says why it was refused with %i', (status, responseText, said) => {
        const state = begin();
        Object.assign(request, { status, responseText });
        request.onload();
        expect([state.failed, state.sending]).toEqual([said, false]);
    });
    it('says what a broken connection means', () => {
        const state = begin();
        request.onerror();
        expect(state.failed).toContain('Nothing was taken');
    });
});

test('a slider shows the set of rollups for its space and keeps it in the address', () => {
    document.body.innerHTML = `<section data-budget><input type="range" min="0" max="1" value="0"><p data-budget-said></p>
        <svg><line data-budget-line data-places="[5, 40]"/></svg><div data-budget-set="0" data-said="none" data-space="0"></div>
        <div data-budget-set="1" data-said="two rollups" data-space="0.25" hidden></div></section>`;
    budgets(document);
    const slider = document.querySelector('input');
    slider.value = '1';
    slider.dispatchEvent(new Event('input'));
    const sets = [...document.querySelectorAll('[data-budget-set]')].map((set) => set.hidden);
    expect([sets, document.querySelector('[data-budget-said]').textContent]).toEqual([[true, false], 'two rollups']);
    expect(document.querySelector('[data-budget-line]').getAttribute('transform')).toBe('translate(40 0)');
    expect(new URL(window.location.href).searchParams.get('space')).toBe('0.250');
});

test('a figure says under itself what the pointer or the focus is on', () => {
    document.body.innerHTML = `<figure data-figure><svg><a><title>12.4 ms at 9</title><rect id="bar"/></a><circle id="bare"/></svg>
        <p class="reading-line"></p></figure>`;
    figures(document);
    const line = document.querySelector('.reading-line');
    document.getElementById('bare').dispatchEvent(new Event('pointerover', { bubbles: true }));
    expect(line.textContent).toBe('');
    document.getElementById('bar').parentElement.dispatchEvent(new Event('focusin', { bubbles: true }));
    expect(line.textContent).toBe('12.4 ms at 9');
});
