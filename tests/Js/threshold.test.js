import { beforeEach, expect, test, vi } from 'vitest';
import { PAUSE_MS, thresholds, written } from '../../resources/js/threshold.js';

function drawn() {
    document.body.innerHTML = `<form><input id="a-threshold" value="50"><input id="a-calm" value="45"></form>
        <svg viewBox="0 0 1180 300"><g class="threshold" tabindex="0" aria-valuemin="0" aria-valuemax="100" aria-valuenow="50"
        data-top="34" data-bottom="276"><line/></g></svg>`;
    const svg = document.querySelector('svg');
    Object.defineProperty(svg, 'viewBox', { value: { baseVal: { height: 300 } } });
    // Drawn at half its size.
    svg.getBoundingClientRect = () => ({ left: 0, top: 100, width: 590, height: 150 });
    const line = document.querySelector('.threshold');
    const field = document.querySelector('#a-threshold');
    const changed = vi.fn();
    field.addEventListener('change', changed);
    thresholds(document);
    const pointer = (type, y, button = 0) => line.dispatchEvent(Object.assign(new Event(type, { bubbles: true, cancelable: true }),
        { clientY: y, button, pointerId: 1 }));
    const key = (name) => line.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
    return { line, field, changed, pointer, key };
}

beforeEach(() => vi.useFakeTimers());

test('a drag writes the value under the pointer, and is sent when it ends', () => {
    const { line, field, changed, pointer } = drawn();
    pointer('pointermove', 120);
    expect(field.value).toBe('50');
    pointer('pointerdown', 175);
    // 77.5 of 150 below the top of the drawing is 155 of 300, exactly in the middle of 34 to 276.
    pointer('pointermove', 177.5);
    expect(field.value).toBe('50');
    pointer('pointermove', 129.1);
    expect(field.value).toBe('90');
    expect(line.getAttribute('transform')).toBe(`translate(0 ${276 - 0.9 * 242})`);
    expect(changed).not.toHaveBeenCalled();
    pointer('pointerup', 129.1);
    expect(changed).toHaveBeenCalledTimes(1);
    expect(document.querySelector('#a-calm').value).toBe('');
    pointer('pointermove', 200);
    expect(field.value).toBe('90');
});

test('it stays within the drawing', () => {
    const { field, pointer } = drawn();
    pointer('pointerdown', 175);
    pointer('pointermove', -900);
    expect(field.value).toBe('100');
    pointer('pointermove', 900);
    expect(field.value).toBe('0');
    pointer('pointercancel', 900);
    pointer('pointermove', 129.1);
    expect(field.value).toBe('0');
    pointer('pointerdown', 129.1, 2);
    pointer('pointermove', 129.1);
    expect(field.value).toBe('0');
});

test('arrows move it by a hundredth, pages by a tenth, and it is sent after a while or by Enter', () => {
    const { line, field, changed, key } = drawn();
    for (const [name, value] of [['ArrowUp', '51'], ['ArrowLeft', '50'], ['PageUp', '60'], ['PageDown', '50'], ['Home', '0'],
        ['ArrowDown', '0'], ['End', '100'], ['ArrowRight', '100'], ['ArrowDown', '99'], ['x', '99']]) {
        key(name);
        expect(field.value).toBe(value);
        expect(line.getAttribute('aria-valuenow')).toBe(value);
    }
    expect(changed).not.toHaveBeenCalled();
    vi.advanceTimersByTime(PAUSE_MS + 1);
    expect(changed).toHaveBeenCalledTimes(1);
    key('ArrowDown');
    key('Enter');
    expect(changed).toHaveBeenCalledTimes(2);
    vi.advanceTimersByTime(PAUSE_MS + 1);
    expect(changed).toHaveBeenCalledTimes(2);
});

test('it is brought to life once, and not without its field', () => {
    const { field, key } = drawn();
    thresholds(document);
    key('ArrowUp');
    expect(field.value).toBe('51');
    document.body.innerHTML = '<svg><g class="threshold" aria-valuemax="1" aria-valuenow="0"></g></svg>';
    thresholds(document);
});

test('numbers have three digits', () => {
    expect([0, 0.123456, 90.04, 1234.5, 1e-7].map(written)).toEqual(['0', '0.123', '90', '1230', '1e-7']);
});
