import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { mount } from '../../resources/js/editor-view.js';

function field(attributes = '', text = 'SELECT 1') {
    document.body.innerHTML = `<form><label for="a">Statement</label><select name="cluster"><option>fernhill</option></select>
        <div class="editor"><textarea id="a" name="sql" rows="5" data-editor="sql" data-nonce="n" placeholder="p"
        ${attributes}>${text}</textarea></div></form>`;
    return document.querySelector('textarea');
}

beforeEach(() => {
    // What a document without a layout does not know.
    Range.prototype.getClientRects = () => [];
    Range.prototype.getBoundingClientRect = () => ({ left: 0, right: 0, top: 0, bottom: 0, width: 0, height: 0 });
    const known = { tables: {}, functions: ['count'], keywords: ['SELECT'] };
    vi.stubGlobal('fetch', vi.fn(async () => ({ ok: true, json: async () => known })));
});
afterEach(() => vi.unstubAllGlobals());

test('the field stays what the form sends, and hears of every change', () => {
    const area = field();
    const heard = vi.fn();
    area.addEventListener('input', heard);
    const editor = mount(area);
    expect(area.hidden).toBe(true);
    expect(document.querySelector('.cm-content').textContent).toBe('SELECT 1');
    editor.insert('x, ');
    expect(area.value).toBe('x, SELECT 1');
    expect(new FormData(area.form).get('sql')).toBe('x, SELECT 1');
    expect(heard).toHaveBeenCalledTimes(1);
    expect(editor.cursor()).toBe(3);
});

test('it carries the name and the help of its field, and the nonce of its page', () => {
    mount(field('aria-describedby="help"'));
    const content = document.querySelector('.cm-content');
    expect(content.getAttribute('aria-label')).toBe('Statement');
    expect(content.getAttribute('aria-describedby')).toBe('help');
    expect([...document.querySelectorAll('style')].every((style) => style.getAttribute('nonce') === 'n')).toBe(true);
});

test('the words of the cluster are asked for once, when somebody begins', async () => {
    const area = field('data-words-at="/words"');
    mount(area);
    expect(fetch).not.toHaveBeenCalled();
    const content = document.querySelector('.cm-content');
    content.dispatchEvent(new FocusEvent('focus'));
    content.dispatchEvent(new FocusEvent('focus'));
    await Promise.resolve();
    expect(fetch.mock.calls.map(([address]) => address)).toEqual(['/words?cluster=fernhill']);
});

test('words that are given are not asked for', () => {
    mount(field('data-words=\'["a"]\''));
    document.querySelector('.cm-content').dispatchEvent(new FocusEvent('focus'));
    expect(fetch).not.toHaveBeenCalled();
});

test('a mistake is underlined to the end of its word, and gone with the next change', () => {
    const editor = mount(field('', 'SELECT kilo FROM t'));
    editor.mark(7);
    expect([...document.querySelectorAll('.mistake')].map((mark) => mark.textContent)).toEqual(['kilo']);
    editor.insert(' ');
    expect(document.querySelector('.mistake')).toBeNull();
    editor.mark(999);
    expect(document.querySelector('.mistake').textContent).toBe('t');
    editor.mark(null);
    expect(document.querySelector('.mistake')).toBeNull();
});

test('a mistake in an empty text is none', () => {
    const editor = mount(field('', ''));
    editor.mark(0);
    expect(document.querySelector('.mistake')).toBeNull();
});

test('keys of the page come before those of the editor', () => {
    const run = vi.fn(() => true);
    const area = field();
    mount(area, { keys: [{ key: 'Ctrl-Enter', run }] });
    document.querySelector('.cm-content').dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', code: 'Enter', keyCode: 13,
        ctrlKey: true, bubbles: true, cancelable: true }));
    expect(run).toHaveBeenCalledTimes(1);
    expect(area.value).toBe('SELECT 1');
});
