import { beforeEach, expect, test, vi } from 'vitest';
import { scaleLinear } from 'd3-scale';
import { fitting, timePlots } from '../../resources/js/time-plot.js';

const HOUR = 3600;
// Friday 20 November 2026, 08:00 UTC.
const FROM = Date.UTC(2026, 10, 20, 8) / 1000;

let observed;

function chart(change = {}, { width = 500, rail = false, links = true, before = '' } = {}) {
    const plot = {
        stacked: false,
        starts: [FROM, FROM + HOUR, FROM + 2 * HOUR, FROM + 3 * HOUR],
        to: FROM + 4 * HOUR,
        series: [{ css: 'line s1', values: [1, 2, null, 4] }],
        up: [[0, '0'], [4, '4 ms']],
        across: [[[FROM, '08:00'], [FROM + 2 * HOUR, '10:00']]],
        gaps: [],
        marks: [],
        height: 200,
        left: 40,
        zone: 'UTC',
        ...change,
    };
    const slice = (i) => `<rect class="slice"><title>hour ${i}</title></rect>`;
    const drawn = plot.starts.map((_, i) => (links ? `<a href="/at/${i}">${slice(i)}</a>` : slice(i))).join('');
    const scope = rail ? '<form id="scope"><input name="window"></form><div data-rail data-form="scope"></div>' : '';
    document.body.innerHTML = `${before}${scope}<figure><div class="scroll" tabindex="0"><svg viewBox="0 0 1180 200">
        <title>T</title><desc>D</desc><defs>
        <pattern id="load-h2"></pattern></defs>${drawn}
        </svg></div><p class="reading-line"></p></figure>`;
    const figure = document.querySelector('figure');
    figure.dataset.plot = JSON.stringify(plot);
    const box = figure.querySelector('.scroll');
    Object.defineProperty(box, 'clientWidth', { get: () => width, configurable: true });
    const svg = figure.querySelector('svg');
    svg.getBoundingClientRect = () => ({ left: 0, width, top: 0, height: 200 });
    timePlots(document);
    const pointer = (type, x, target = svg) => target.dispatchEvent(Object.assign(new Event(type, { bubbles: true, cancelable: true }),
        { clientX: x, button: 0 }));
    const key = (name) => box.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
    return { figure, svg, box, pointer, key, said: () => figure.querySelector('.reading-line').textContent,
        resize: (to) => { width = to; observed.forEach((call) => call()); } };
}

beforeEach(() => {
    observed = [];
    vi.stubGlobal('ResizeObserver', class { constructor(call) { observed.push(call); } observe() {} });
});

const numbers = (path) => path.match(/-?[\d.]+/g).map(Number);

test('a line goes through the middle of its intervals at the width there is, and breaks where nothing is known', () => {
    const { svg } = chart();
    // 4 hours between 40 and 492; 0 at 176 and 4 at 14.
    const paths = svg.querySelector('path.line').getAttribute('d').split('M').slice(1).map(numbers);
    expect(paths).toEqual([[40 + 56.5, 135.5, 40 + 169.5, 95]].concat([paths[1]]));
    const dot = svg.querySelector('circle');
    expect([dot.getAttribute('cx'), dot.getAttribute('cy')].map(Number)).toEqual([40 + 395.5, 14]);
    expect(svg.getAttribute('viewBox')).toBe('0 0 500 200');
    expect(svg.querySelectorAll('.slice title')).toHaveLength(0);
});

test('it is drawn again when the width changes, and only then', () => {
    const { svg, resize } = chart();
    const before = svg.querySelector('path.line');
    resize(500);
    expect(svg.querySelector('path.line')).toBe(before);
    resize(300);
    expect(svg.getAttribute('viewBox')).toBe('0 0 300 200');
    // What was not laid out yet has no width to draw at.
    resize(0);
    expect(svg.getAttribute('viewBox')).toBe('0 0 300 200');
});

test('layers stand on each other in steps, each with its hatch', () => {
    const { svg } = chart({ stacked: true, series: [{ css: 's1', values: [1, 0, 2, 1] }, { css: 's2', values: [1, 3, 0, 1] }] });
    const [first, second] = [...svg.querySelectorAll('path.area')];
    // Up over the first hour at 1 of 4 and 2 of 4.
    expect(numbers(first.getAttribute('d')).slice(0, 4)).toEqual([40, 135.5, 153, 135.5]);
    expect(numbers(second.getAttribute('d')).slice(0, 4)).toEqual([40, 95, 153, 95]);
    expect(svg.querySelectorAll('path.hatch')).toHaveLength(1);
    expect(svg.querySelector('path.hatch').getAttribute('fill')).toBe('url(#load-h2)');
});

test('gaps and marks stand where they were', () => {
    const { svg } = chart({ gaps: [[FROM - HOUR, FROM + HOUR]], marks: [[FROM + 2 * HOUR, 'restart'], [FROM + 9 * HOUR, 'later']] });
    const gap = svg.querySelector('.gap');
    expect([gap.getAttribute('x'), gap.getAttribute('width')].map(Number)).toEqual([40, 113]);
    expect(Number(svg.querySelector('.limit').getAttribute('x1'))).toBe(266);
    expect([...svg.querySelectorAll('text')].map((text) => text.textContent)).toEqual(['0', '4 ms', '08:00', '10:00', 'restart']);
});

test('the pointer says and links the interval it is over', () => {
    const { svg, pointer, said } = chart();
    pointer('pointermove', 41);
    expect(said()).toBe('hour 0');
    pointer('pointermove', 200);
    expect(said()).toBe('hour 1');
    expect(svg.querySelector('a.at').getAttribute('href')).toBe('/at/1');
    pointer('pointermove', 499);
    expect(said()).toBe('hour 3');
    pointer('pointerleave', 600);
    expect(said()).toBe('');
    expect(svg.querySelector('a.at').hasAttribute('href')).toBe(false);
});

test('arrows go from interval to interval, and Enter opens one', () => {
    const { svg, key, said } = chart();
    const opened = vi.fn((event) => event.preventDefault());
    svg.addEventListener('click', opened);
    key('Enter');
    expect(opened).not.toHaveBeenCalled();
    for (const [name, expected] of [['ArrowLeft', 'hour 3'], ['ArrowLeft', 'hour 2'], ['Home', 'hour 0'], ['ArrowLeft', 'hour 0'],
        ['PageDown', 'hour 3'], ['End', 'hour 3'], ['Escape', ''], ['ArrowRight', 'hour 0'], ['ArrowRight', 'hour 1']]) {
        key(name);
        expect(said()).toBe(expected);
    }
    key('Enter');
    expect(opened).toHaveBeenCalledTimes(1);
});

test('a drag over intervals sets the window where there is one, and opens nothing', () => {
    const { svg, pointer } = chart({}, { rail: true });
    const form = document.getElementById('scope');
    form.requestSubmit = vi.fn();
    pointer('pointerdown', 300);
    pointer('pointermove', 170);
    expect(Number(svg.querySelector('.span').getAttribute('width'))).toBeCloseTo(226, 1);
    const click = new Event('click', { bubbles: true, cancelable: true });
    pointer('pointerup', 170, document);
    svg.dispatchEvent(click);
    expect(click.defaultPrevented).toBe(true);
    expect(form.elements.window.value).toBe('2026-11-20 09:00-11:00');
    expect(form.requestSubmit).toHaveBeenCalledTimes(1);
    // A press alone is for the link.
    pointer('pointerdown', 300);
    pointer('pointerup', 300, document);
    expect(form.requestSubmit).toHaveBeenCalledTimes(1);
});

test.each([
    ['the filters', '<form data-filters><input name="window"></form>', '2026-11-20 09:00-11:00'],
    ['no filters that have no window', '<form data-filters><input name="at"></form>', undefined],
])('without a rail a drag asks %s', (_, before, to) => {
    const { svg, pointer } = chart({}, { before });
    const form = document.querySelector('form');
    form.requestSubmit = vi.fn();
    pointer('pointerdown', 170);
    pointer('pointermove', 300);
    expect(Number(svg.querySelector('.span').getAttribute('width'))).toBeCloseTo(to ? 226 : 0, 1);
    pointer('pointerup', 300, document);
    expect(form.elements.window?.value).toBe(to);
    expect(form.requestSubmit).toHaveBeenCalledTimes(to ? 1 : 0);
});

test('intervals without links and pages without a window are only read', () => {
    const { svg, pointer, key, said } = chart({}, { links: false });
    key('ArrowRight');
    key('Enter');
    pointer('pointerdown', 60);
    pointer('pointermove', 300);
    pointer('pointerup', 300, document);
    expect(said()).toBe('hour 2');
    expect(svg.querySelector('a.at').hasAttribute('href')).toBe(false);
});

test('labels that would touch give way to fewer', () => {
    const sets = [[[0, '00:00'], [10, '01:00'], [20, '02:00']], [[0, '00:00'], [20, '02:00']], [[10, '01:00']]];
    const at = (width) => fitting(sets, scaleLinear([0, 20], [40, width - 8]), 40, width).map(([, label]) => label);
    expect(at(300)).toEqual(['00:00', '01:00', '02:00']);
    expect(at(130)).toEqual(['00:00', '02:00']);
    expect(at(80)).toEqual(['01:00']);
});
