import { scaleLinear } from 'd3-scale';
import { area, curveStepAfter, line, stack } from 'd3-shape';
import { windowText } from './window-text.js';

/**
 * Charts over time, drawn at the width the page has for them, again whenever that changes. What is said of an interval and where it leads
 * is taken from the drawing that came with the page, which stays what is printed and sent. One tab stop: arrows go from interval to
 * interval, Enter opens one; a drag over several sets the window.
 */
const TOP = 14;
const BELOW = 24;
const LETTER = 7;

export function timePlots(root) {
    for (const figure of root.querySelectorAll?.('figure[data-plot]:not([data-live-plot])') ?? []) {
        figure.dataset.livePlot = '1';
        attach(figure);
    }
}

function attach(figure) {
    const plot = JSON.parse(figure.dataset.plot);
    const svg = figure.querySelector('svg');
    const box = svg.parentElement;
    const said = figure.querySelector('.reading-line');
    const slices = [...svg.querySelectorAll('.slice')];
    const words = slices.map((slice) => slice.querySelector('title')?.textContent ?? '');
    const links = slices.map((slice) => slice.closest('a')?.getAttribute('href') ?? null);
    const ends = [...plot.starts.slice(1), plot.to];
    let frame = null;
    let current = null;

    const show = (index) => {
        current = index === null ? null : Math.max(0, Math.min(plot.starts.length - 1, index));
        frame?.point(current, current === null ? null : links[current]);
        said.textContent = current === null ? '' : words[current];
    };
    const paint = () => {
        const width = Math.round(box.clientWidth);
        if (width < 60 || width === frame?.width) return;
        frame = draw(svg, plot, ends, width);
        frame.point(current, current === null ? null : links[current]);
    };
    paint();
    new ResizeObserver(paint).observe(box);

    const indexAt = (event) => {
        const time = frame.x.invert(event.clientX - svg.getBoundingClientRect().left);
        const after = ends.findIndex((end) => time < end);
        return after < 0 ? ends.length - 1 : after;
    };
    const form = scope();
    let pressed = null;
    let dragged = false;
    svg.addEventListener('pointermove', (event) => {
        const index = indexAt(event);
        if (pressed !== null && index !== pressed) dragged = true;
        if (dragged && form) frame.span(plot.starts[Math.min(pressed, index)], ends[Math.max(pressed, index)]);
        show(index);
    });
    svg.addEventListener('pointerleave', () => { if (pressed === null) show(null); });
    svg.addEventListener('pointerdown', (event) => {
        if (event.button !== 0) return;
        pressed = indexAt(event);
        dragged = false;
    });
    // A link must not be dragged about as an address.
    svg.addEventListener('dragstart', (event) => event.preventDefault());
    svg.addEventListener('click', (event) => { if (dragged) event.preventDefault(); });
    document.addEventListener('pointerup', (event) => {
        if (pressed === null) return;
        const last = indexAt(event);
        const from = plot.starts[Math.min(pressed, last)];
        const to = ends[Math.max(pressed, last)];
        pressed = null;
        frame.span(null);
        if (!dragged || !form) return;
        form.elements.window.value = windowText(from, to, plot.zone);
        form.requestSubmit();
    });
    box.addEventListener('keydown', (event) => {
        const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -Infinity, End: Infinity }[event.key];
        if (step !== undefined) show((current ?? (step > 0 ? -1 : plot.starts.length)) + step);
        else if (event.key === 'Escape' && current !== null) show(null);
        else if (event.key === 'Enter' && current !== null && links[current]) {
            svg.querySelector('a.at').dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true }));
        } else return;
        event.preventDefault();
        event.stopPropagation();
    });
}

/** The form whose window a drag sets: that of the rail, or else of the filters. */
function scope() {
    const rail = document.querySelector('[data-rail]');
    const form = rail ? document.getElementById(rail.dataset.form) : document.querySelector('form[data-filters]');
    return form?.elements.window ? form : null;
}

/** Everything but the names and hatches of the drawing, at such a width in pixels. */
function draw(svg, plot, ends, width) {
    for (const child of [...svg.children]) {
        if (!['title', 'desc', 'defs'].includes(child.tagName)) child.remove();
    }
    const { height, left, starts } = plot;
    const right = width - 8;
    const bottom = height - BELOW;
    svg.setAttribute('viewBox', `0 0 ${width} ${height}`);
    const put = (tag, attributes, text) => {
        const element = document.createElementNS('http://www.w3.org/2000/svg', tag);
        for (const [name, value] of Object.entries(attributes)) {
            element.setAttribute(name, typeof value === 'number' ? +value.toFixed(2) : value);
        }
        if (text !== undefined) element.textContent = text;
        svg.append(element);
        return element;
    };
    const x = scaleLinear([starts[0], plot.to], [left, right]);
    const y = scaleLinear([0, plot.up.at(-1)?.[0] || 1], [bottom, TOP]);
    for (const [value, label] of plot.up) {
        put('line', { class: 'grid', x1: left, x2: right, y1: y(value), y2: y(value) });
        put('text', { class: 'tick', x: left - 6, y: y(value) + 4, 'text-anchor': 'end' }, label);
    }
    for (const [at, label] of fitting(plot.across, x, left, width)) {
        put('text', { class: 'tick', x: at, y: height - 6, 'text-anchor': 'middle' }, label);
    }
    for (const [from, to] of plot.gaps) {
        const begin = x(Math.max(starts[0], from));
        put('rect', { class: 'gap', x: begin, y: TOP, width: Math.max(1, x(Math.min(plot.to, to)) - begin), height: bottom - TOP });
    }
    if (plot.stacked) stacked(svg, plot, x, y, put);
    else lines(plot, ends, x, y, put);
    let free = left;
    for (const [at, name] of plot.marks) {
        if (at < starts[0] || at > plot.to) continue;
        put('line', { class: 'limit', x1: x(at), x2: x(at), y1: TOP, y2: bottom });
        // A name where it does not stand in another one.
        const end = x(at) + 5 + LETTER * name.length;
        if (x(at) < free || end > width) continue;
        put('text', { class: 'tick', x: x(at) + 5, y: TOP + 10 }, name);
        free = end + 5;
    }
    const span = put('rect', { class: 'span', x: 0, y: TOP, width: 0, height: bottom - TOP });
    // Takes the pointer where nothing is drawn.
    put('rect', { class: 'slice', x: left, y: TOP, width: Math.max(0, right - left), height: bottom - TOP });
    const anchor = put('a', { class: 'at', tabindex: '-1' });
    const slice = put('rect', { class: 'slice now', y: TOP, width: 0, height: bottom - TOP });
    anchor.append(slice);

    return {
        width,
        x,
        point: (index, link) => {
            const [from, to] = index === null ? [0, 0] : [x(starts[index]), x(ends[index])];
            slice.setAttribute('x', from);
            slice.setAttribute('width', to - from);
            if (link) anchor.setAttribute('href', link);
            else anchor.removeAttribute('href');
        },
        span: (from, to) => {
            span.setAttribute('x', from === null ? 0 : x(from));
            span.setAttribute('width', from === null ? 0 : x(to) - x(from));
        },
    };
}

/** The fullest set of labels of which none touches the next, with their places. */
export function fitting(sets, x, left, width) {
    let placed = [];
    for (const set of sets) {
        placed = set.map(([at, label]) => {
            const half = (LETTER / 2) * label.length;
            return [Math.min(width - half, Math.max(left + 14, x(at))), label];
        });
        const touches = placed.some(([at, label], i) => i > 0
            && at - placed[i - 1][0] < (LETTER / 2) * (label.length + placed[i - 1][1].length) + 6);
        if (!touches) break;
    }
    return placed;
}

/** In steps: along each interval, then up or down to the next. */
function stacked(svg, plot, x, y, put) {
    const times = [...plot.starts, plot.to];
    const last = plot.starts.length - 1;
    const rows = times.map((_, i) => plot.series.map((one) => one.values[Math.min(i, last)] ?? 0));
    const layers = stack().keys(plot.series.map((_, i) => i)).value((row, key) => row[key])(rows);
    const shape = area().x((_, i) => x(times[i])).y0(([low]) => y(low)).y1(([, high]) => y(high)).curve(curveStepAfter).digits(2);
    layers.forEach((layer, i) => {
        const d = shape(layer) ?? '';
        const hatch = svg.querySelector(`pattern[id$="-h${i + 1}"]`);
        put('path', { class: `area ${plot.series[i].css}`, d });
        if (hatch) put('path', { class: 'hatch', fill: `url(#${hatch.id})`, d });
    });
}

/** Broken where a value is not known; one that stands alone is a dot. */
function lines(plot, ends, x, y, put) {
    const middles = plot.starts.map((start, i) => x((start + ends[i]) / 2));
    for (const { css, values } of plot.series) {
        const known = (value) => value !== null && value !== undefined;
        const shape = line().defined(known).x((_, i) => middles[i]).y((value) => y(value)).digits(2);
        put('path', { class: css, d: shape(values) ?? '' });
        values.forEach((value, i) => {
            if (!known(value) || known(values[i - 1]) || known(values[i + 1])) return;
            put('circle', { class: `${css} dot`, cx: middles[i], cy: y(value), r: 2.5 });
        });
    }
}
