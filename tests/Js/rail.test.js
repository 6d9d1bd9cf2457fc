import { beforeEach, describe, expect, it, test, vi } from 'vitest';
import { rails } from '../../resources/js/rail.js';

// Fourteen days up to Friday 20 November 2026, 00:00 UTC; a rail of 1,000 pixels.
const TO = Date.UTC(2026, 10, 20) / 1000;
const FROM = TO - 14 * 86_400;

function rail({ from = TO - 7200, to = TO - 3600, zone = 'UTC' } = {}) {
    document.body.innerHTML = `<form id="scope"><input name="window"></form>
        <div data-rail data-form="scope" data-from="${FROM}" data-to="${TO}" data-zone="${zone}" data-window-from="${from}"
        data-window-to="${to}"><svg><rect class="bracket"/><line class="edge now"/><line class="edge now"/>
        <rect class="handle" tabindex="0"/><rect class="handle" tabindex="0"/></svg><p class="said"></p></div>`;
    const svg = document.querySelector('svg');
    svg.getBoundingClientRect = () => ({ left: 0, width: 1000, top: 0, height: 40 });
    svg.setPointerCapture = () => {};
    const form = document.getElementById('scope');
    form.requestSubmit = vi.fn();
    rails(document);
    const pointer = (type, x, target = svg) => target.dispatchEvent(Object.assign(new Event(type, { bubbles: true }),
        { clientX: x, pointerId: 1 }));
    return { svg, form, pointer, bracket: document.querySelector('.bracket'), handles: [...document.querySelectorAll('.handle')] };
}

beforeEach(() => vi.useFakeTimers());

test('a press means the hour under the pointer', () => {
    const { form, pointer, bracket } = rail();
    pointer('pointerdown', 500);
    pointer('pointerup', 500);
    expect(form.requestSubmit).toHaveBeenCalledTimes(1);
    expect(form.elements.window.value).toBe('2026-11-13 00:00-01:00');
    expect(Number(bracket.getAttribute('width'))).toBeCloseTo(1000 / (14 * 24), 6);
});

describe('a drag', () => {
    it.each([['forth', 100, 300], ['back', 300, 100]])('%s draws a new bracket', (_, a, b) => {
        const { form, pointer } = rail();
        pointer('pointerdown', a);
        pointer('pointermove', b);
        pointer('pointerup', b);
        expect(form.elements.window.value).toBe('2026-11-07 09:30 to 2026-11-10 04:45');
    });
    it('of the bracket moves it and keeps its length', () => {
        const { form, pointer, bracket } = rail({ from: FROM + 86_400, to: FROM + 2 * 86_400 });
        pointer('pointerdown', 100, bracket);
        pointer('pointermove', 100 + 1000 / 14);
        pointer('pointerup', 100 + 1000 / 14);
        expect(form.elements.window.value).toBe('2026-11-08 00:00 to 2026-11-09 00:00');
    });
    it('of an edge leaves the other, and never turns the bracket round', () => {
        const { form, pointer, handles } = rail({ from: FROM + 86_400, to: FROM + 2 * 86_400 });
        pointer('pointerdown', 1000 / 14, handles[0]);
        pointer('pointermove', 900);
        pointer('pointerup', 900);
        expect(form.elements.window.value).toBe('2026-11-07 23:55 to 2026-11-08 00:00');
    });
    it('of less than three pixels is a press', () => {
        const { form, pointer } = rail();
        pointer('pointerdown', 500);
        pointer('pointermove', 502);
        pointer('pointerup', 502);
        expect(form.elements.window.value).toBe('2026-11-13 00:00-01:00');
    });
});

describe('keys on an edge', () => {
    const press = (handle, key, shiftKey = false) => {
        handle.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey, cancelable: true }));
    };

    it('move it by an hour, a day, five minutes, and act after a while', () => {
        const { form, handles } = rail();
        press(handles[1], 'ArrowRight');
        expect(document.querySelector('.said').textContent).toBe('2026-11-19 22:00 to 2026-11-20 00:00');
        press(handles[0], 'PageDown');
        press(handles[0], 'ArrowRight', true);
        expect(document.querySelector('.said').textContent).toBe('2026-11-18 22:05 to 2026-11-20 00:00');
        expect(form.requestSubmit).not.toHaveBeenCalled();
        vi.advanceTimersByTime(1300);
        expect(form.requestSubmit).toHaveBeenCalledTimes(1);
        expect(handles[0].getAttribute('aria-valuetext')).toBe('2026-11-18 22:05 to 2026-11-20 00:00');
        expect(Number(handles[1].getAttribute('aria-valuenow'))).toBe(TO);
    });
    it('act at once with Enter, and not with others', () => {
        const { form, handles } = rail();
        press(handles[0], 'x');
        expect(form.requestSubmit).not.toHaveBeenCalled();
        press(handles[0], 'Enter');
        expect(form.requestSubmit).toHaveBeenCalledTimes(1);
    });
});

test('the window is written in the zone of its reader', () => {
    const { form, pointer } = rail({ zone: 'Asia/Kolkata' });
    pointer('pointerdown', 500);
    pointer('pointerup', 500);
    expect(form.elements.window.value).toBe('2026-11-13 05:30-06:30');
});

test('a rail is brought to life once', () => {
    const { form, pointer } = rail();
    rails(document);
    pointer('pointerdown', 500);
    pointer('pointerup', 500);
    expect(form.requestSubmit).toHaveBeenCalledTimes(1);
});
