import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { hands } from '../../resources/js/hand.js';

const OF = {
    workers: 40, hand: 40, ceiling: 80, points: [[10, 400e6], [20, 220e6], [40, 120e6], [80, 100e6]], price: 2, currency: 'EUR',
    workUs: 3600e6, startUs: Date.UTC(2026, 10, 20, 2) * 1000, zone: 'UTC', deadlineUs: (Date.UTC(2026, 10, 20, 2) / 1000 + 130) * 1e6,
    minutes: { 20: 0.5, 40: 3 }, recordedUs: 120e6,
};

function page(of = OF) {
    document.body.innerHTML = `<section data-hand="/jobs/7/at"><svg></svg><input data-hand-typed value="40">
        <select data-hand-order><option value="recorded">as recorded</option></select>
        <p>${['time', 'cost', 'idle', 'ends', 'chance', 'minute', 'how'].map((name) => `<span data-hand-${name}></span>`).join('')}</p>
        </section><input data-hand-pin>`;
    document.querySelector('section').dataset.of = JSON.stringify(of);
    hands(document);
}
const said = (name) => document.querySelector(`[data-hand-${name}]`).textContent;
const type = (text) => {
    const typed = document.querySelector('[data-hand-typed]');
    typed.value = text;
    typed.dispatchEvent(new Event('input'));
};

beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal('fetch', vi.fn(async () => ({ ok: false, json: async () => null })));
    Element.prototype.scrollIntoView = () => {};
});
afterEach(() => { vi.useRealTimers(); vi.unstubAllGlobals(); });

describe('a number of workers in hand', () => {
    it('says what the recorded number takes, costs and leaves idle', () => {
        page();
        expect(said('time')).toBe('take 2 min');
        // 40 workers for 120 s are 1.333 worker hours.
        expect(said('cost')).toBe('and cost 2.67\u00a0EUR;');
        expect(said('idle')).toBe('25% idle,');
        expect(said('ends')).toBe('ends at 02:02:00, in time');
    });
    it('reads between the points of the curve straight over one by the number', () => {
        page();
        type('30');
        // Halfway in between, one by 30 is two thirds of the way from one by 20 to one by 40.
        expect(said('time')).toBe(`take ${'2 min 33 s'}`);
        expect(said('ends')).toBe('ends at 02:02:33, late');
        expect(document.querySelector('[data-hand-pin]').value).toBe('30');
        expect(new URL(window.location.href).searchParams.get('workers')).toBe('30');
    });
    it('takes no more time beyond the last point, and none below the first differs from it', () => {
        page();
        type('500');
        expect(said('time')).toBe('take 1 min 40 s');
        expect(said('minute')).toBe('and nothing gets faster with more.');
        type('5');
        expect(said('time')).toBe('take 6 min 40 s');
    });
    it('keeps what is no number from changing anything', () => {
        page();
        type('none');
        type('-4');
        expect(said('time')).toBe('take 2 min');
    });
    it('counts in worker hours where nobody knows a price', () => {
        page({ ...OF, price: null });
        expect(said('cost')).toBe('and cost 1.33 worker h;');
    });
    it('tells the chance from the draws, never as nothing or all', () => {
        const factors = [[0.9, 1, 1.05, 1.2], [0.5, 0.6, 0.7, 0.8]];
        page({ ...OF, distribution: { workers: [40, 80], factors } });
        // 130 s of 120: three of four draws; (3 + 0.5) / (4 + 1).
        expect(said('chance')).toBe('with a chance of 70% to be in time');
        type('80');
        expect(said('chance')).toBe('with a chance of 90% to be in time');
    });
    it('asks the server once it rests, for the last number only, and says when it does not answer', async () => {
        page();
        fetch.mockClear();
        type('31');
        type('32');
        vi.advanceTimersByTime(300);
        expect(fetch.mock.calls.map(([address]) => address)).toEqual(['/jobs/7/at?workers=32&parts=400&order=recorded']);
        await vi.runAllTimersAsync();
        expect(said('how')).toBe('The server did not answer; the figures are read off the curve.');
    });
    it('shows what the server has scheduled in place of the curve', async () => {
        page();
        fetch.mockImplementation(async () => ({ ok: true, json: async () => ({ workers: 30, timeUs: 150e6, used: [] }) }));
        type('30');
        await vi.advanceTimersByTimeAsync(300);
        expect([said('time'), said('how')]).toEqual(['take 2 min 30 s', '(modelled, scheduled)']);
    });
});
