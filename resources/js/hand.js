import { clock, digits, duration, moments, money, percent } from './quantity.js';

/**
 * Workers reserved and used, with a number of workers in hand: dragged, typed or chosen. While it moves, figures are read
 * off the curve; when it rests, the server schedules the job with it and says how many are at work when.
 */
const LEFT = 84;
const RIGHT = 1096;
const TOP = 14;
const BOTTOM = 222;
const NAMESPACE = 'http://www.w3.org/2000/svg';
const PARTS = 400;

export function hands(root) {
    for (const section of root.querySelectorAll?.('[data-hand]:not([data-live])') ?? []) {
        section.dataset.live = '1';
        new Hand(section);
    }
}

/** Round numbers up to a most. */
function ticks(most) {
    const raw = Math.max(1, most / 4);
    const power = 10 ** Math.floor(Math.log10(raw));
    const step = Math.max(1, power * ([1, 2, 5, 10].find((k) => k * power >= raw) ?? 10));
    return Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => i * step);
}

class Hand {
    constructor(section) {
        this.section = section;
        this.of = JSON.parse(section.dataset.of);
        this.svg = section.querySelector('svg');
        this.typed = section.querySelector('[data-hand-typed]');
        this.most = Math.max(2, this.of.workers, Math.min(this.of.ceiling, 2 * this.of.workers)) * 1.06;
        this.workers = this.of.hand;
        this.exact = null;
        this.curve = new Map(this.of.points);
        this.keys = [...this.curve.keys()].sort((a, b) => a - b);
        this.listen();
        this.recorded();
        this.show();
        this.ask();
    }

    listen() {
        this.typed.addEventListener('input', () => { const n = parseInt(this.typed.value, 10); if (n > 0) this.set(n, false); });
        this.typed.addEventListener('keydown', (event) => { if (event.key === 'Enter') event.preventDefault(); });
        document.addEventListener('click', (event) => {
            const chosen = event.target.closest('[data-workers]');
            if (!chosen) return;
            event.preventDefault();
            this.set(Number(chosen.dataset.workers));
            this.section.scrollIntoView({ block: 'nearest' });
        });
        this.order = this.section.querySelector('[data-hand-order]');
        this.order.addEventListener('change', () => { this.exact = null; this.show(); this.ask(); });
        // What takes longer comes in behind the page: with it, chances can be told.
        document.addEventListener('htmx:load', (event) => {
            const distribution = event.target.dataset?.distribution
                ?? event.target.querySelector?.('[data-distribution]')?.dataset.distribution;
            if (distribution) { this.of.distribution = JSON.parse(distribution); this.figures(); }
        });
    }

    /** How many were at work when, by the record. */
    async recorded() {
        const answer = await fetch(`${this.section.dataset.hand.replace(/\/at$/, '/used')}`);
        if (answer.ok) { this.used = await answer.json(); this.show(); }
    }

    set(workers, write = true) {
        this.workers = Math.max(1, Math.min(100_000, Math.round(workers)));
        this.exact = null;
        if (write) this.typed.value = String(this.workers);
        const pin = document.querySelector('[data-hand-pin]');
        if (pin) pin.value = String(this.workers);
        this.show();
        clearTimeout(this.waiting);
        this.waiting = setTimeout(() => this.ask(), 250);
        const url = new URL(location.href);
        url.searchParams.set('workers', String(this.workers));
        history.replaceState(null, '', url);
    }

    async ask() {
        const wanted = this.workers;
        const order = this.order.value;
        this.section.querySelector('[data-hand-how]').textContent = 'scheduling…';
        const answer = await fetch(`${this.section.dataset.hand}?workers=${wanted}&parts=${PARTS}&order=${this.order.value}`, { headers: {
            Accept: 'application/json' } });
        if (wanted !== this.workers || order !== this.order.value) return;
        this.exact = answer.ok ? await answer.json() : null;
        this.show();
        if (!answer.ok) {
            this.section.querySelector('[data-hand-how]').textContent = 'The server did not answer; the figures are read off the curve.';
        }
    }

    /** Time off the curve: straight over 1 / N between what was reckoned through. */
    timeUs(n) {
        if (this.exact?.workers === n) return this.exact.timeUs;
        if (this.curve.has(n)) return this.curve.get(n);
        const above = this.keys.find((k) => k > n);
        if (above === undefined) return this.curve.get(this.keys[this.keys.length - 1]);
        const below = [...this.keys].reverse().find((k) => k < n) ?? above;
        const share = below === above ? 0 : (1 / below - 1 / n) / (1 / below - 1 / above);
        return this.curve.get(below) + share * (this.curve.get(above) - this.curve.get(below));
    }

    money(workerHours) {
        return this.of.price === null ? `${digits(workerHours)} worker h`
            : money(workerHours * this.of.price, this.of.currency);
    }

    chance(n, withinUs) {
        const { distribution } = this.of;
        if (!distribution) return null;
        const limit = withinUs / this.timeUs(n);
        const within = (k) => (distribution.factors[k].filter((f) => f <= limit).length + 0.5) / (distribution.factors[k].length + 1);
        const above = distribution.workers.findIndex((w) => w >= n);
        if (above === -1) return within(distribution.workers.length - 1);
        if (above === 0 || distribution.workers[above] === n) return within(above);
        const [least, most] = [distribution.workers[above - 1], distribution.workers[above]];
        const part = Math.log(n / least) / Math.log(most / least);
        return (1 - part) * within(above - 1) + part * within(above);
    }

    punctual(endsUs) {
        if (this.of.deadlineUs < 0) return '';
        return endsUs > this.of.deadlineUs ? ', late' : ', in time';
    }

    figures() {
        const n = this.workers;
        const time = this.timeUs(n);
        const put = (name, text) => { this.section.querySelector(`[data-hand-${name}]`).textContent = text; };
        put('time', `take ${duration(time)}`);
        put('cost', `and cost ${this.money((n * time) / 3.6e9)};`);
        put('idle', `${percent(Math.max(0, 1 - this.of.workUs / (n * time)))} idle,`);
        const ends = this.of.startUs + time;
        put('ends', this.of.startUs < 0 ? ''
            : `ends at ${clock(ends / 1000, this.of.zone)}${this.punctual(ends)}`);
        const chance = this.of.deadlineUs >= 0 ? this.chance(n, this.of.deadlineUs - this.of.startUs) : null;
        put('chance', chance === null ? '' : `with a chance of ${Math.round(100 * chance)}% to be in time`);
        const below = Object.keys(this.of.minutes).map(Number).filter((k) => k <= n).sort((a, b) => b - a)[0];
        const minute = below === undefined ? null : this.of.minutes[below];
        put('minute', n >= this.of.ceiling || minute === null ? 'and nothing gets faster with more.'
            : `and a minute sooner costs ${this.money(minute / (this.of.price ?? 1))}.`);
        put('how', this.exact ? '(modelled, scheduled)' : '(modelled, read off the curve)');
        const grip = this.svg.querySelector('[role=slider]');
        if (grip) { grip.setAttribute('aria-valuenow', String(n)); grip.setAttribute('aria-valuetext', `${n} workers, ${duration(time)}`); }
    }

    show() {
        const focused = this.svg.contains(document.activeElement);
        const until = Math.max(this.of.elapsedUs, this.timeUs(this.workers)) * 1.01 || 1;
        const x = (us) => LEFT + (us / until) * (RIGHT - LEFT);
        const y = (n) => BOTTOM - (Math.min(n, this.most) / this.most) * (BOTTOM - TOP);
        this.x = x; this.y = y;
        this.svg.replaceChildren();
        const add = (name, attributes, text) => {
            const node = document.createElementNS(NAMESPACE, name);
            Object.entries(attributes).forEach(([key, value]) => node.setAttribute(key, String(value)));
            if (text !== undefined) node.textContent = text;
            this.svg.append(node);
            return node;
        };
        const pattern = document.createElementNS(NAMESPACE, 'defs');
        pattern.innerHTML = '<pattern id="idle-hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
            + '<line x1="0" y1="0" x2="0" y2="7" class="hatch-line"/></pattern>';
        this.svg.append(pattern);
        for (const n of ticks(this.most / 1.06)) {
            add('line', { class: 'grid', x1: LEFT, x2: RIGHT, y1: y(n), y2: y(n) });
            add('text', { class: 'tick', x: LEFT - 8, y: y(n) + 4, 'text-anchor': 'end' }, digits(n));
        }
        for (const us of moments(until)) add('text', { class: 'tick', x: x(us), y: BOTTOM + 18, 'text-anchor': us === 0 ? 'start'
            : 'middle' }, us === 0 ? 'start' : duration(us));
        // Paid: a rectangle; at work: what is filled of it.
        add('rect', { class: 'paid', x: LEFT, y: y(this.of.workers), width: x(this.of.elapsedUs) - LEFT,
            height: BOTTOM - y(this.of.workers) });
        if (this.used) {
            const width = (x(this.of.elapsedUs) - LEFT) / this.used.used.length;
            let d = `M${LEFT} ${BOTTOM}`;
            this.used.used.forEach((level, i) => { d += `L${LEFT + i * width} ${y(level)}L${LEFT + (i + 1) * width} ${y(level)}`; });
            add('path', { class: 'at-work', d: `${d}L${x(this.of.elapsedUs)} ${BOTTOM}Z` });
        }
        if (this.used) {
            const width = (x(this.used.spanUs) - LEFT) / this.used.width.length;
            let d = '';
            this.used.width.forEach((level, i) => { d += `${d ? 'L' : 'M'}${LEFT + (i + 0.5) * width} ${y(level)}`; });
            add('path', { class: 'could-run', d });
        }
        add('line', { class: 'reserved', x1: LEFT, x2: x(this.of.elapsedUs), y1: y(this.of.workers), y2: y(this.of.workers) });
        if (this.exact) {
            const width = (x(this.exact.untilUs) - LEFT) / this.exact.used.length;
            let d = '';
            this.exact.used.forEach((level, i) => {
                d += `${d ? 'L' : 'M'}${LEFT + i * width} ${y(level)}L${LEFT + (i + 1) * width} ${y(level)}`; });
            add('path', { class: 'modelled', d });
        }
        if (this.of.deadlineUs >= 0 && this.of.deadlineUs - this.of.startUs < until) {
            const at = x(this.of.deadlineUs - this.of.startUs);
            add('line', { class: 'limit', x1: at, x2: at, y1: TOP, y2: BOTTOM });
            add('text', { class: 'tick halo', x: at - 5, y: TOP + 10, 'text-anchor': 'end' }, 'deadline');
        }
        const end = x(this.timeUs(this.workers));
        add('rect', { class: 'in-hand', x: LEFT, y: y(this.workers), width: end - LEFT, height: BOTTOM - y(this.workers) });
        const grip = document.createElementNS(NAMESPACE, 'g');
        Object.entries({ class: 'grip', role: 'slider', tabindex: 0, 'aria-label': 'Workers in hand', 'aria-valuemin': 1,
            'aria-valuemax': Math.floor(this.most), 'aria-orientation': 'vertical' }).forEach(([key, value]) => grip.setAttribute(key,
                String(value)));
        const at = y(this.workers);
        grip.innerHTML = `<line x1="${LEFT}" x2="${RIGHT}" y1="${at}" y2="${at}"/>`
            + `<rect x="${RIGHT}" y="${at - 11}" width="74" height="22" rx="2"/>`
            + `<text x="${RIGHT + 37}" y="${at + 4.5}" text-anchor="middle">${this.workers} \u2195</text>`;
        this.svg.append(grip);
        grip.addEventListener('pointerdown', (event) => this.drag(event));
        grip.addEventListener('keydown', (event) => {
            const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: Math.max(1, Math.round(this.workers / 10)),
                PageDown: -Math.max(1, Math.round(this.workers / 10)) }[event.key];
            if (!step) return;
            event.preventDefault();
            this.set(this.workers + step);
        });
        if (focused) grip.focus({ preventScroll: true });
        this.figures();
    }

    drag(event) {
        event.preventDefault();
        const move = (now) => {
            const box = this.svg.getBoundingClientRect();
            const place = ((now.clientY - box.top) / box.height) * 250;
            this.set(((BOTTOM - place) / (BOTTOM - TOP)) * this.most);
        };
        const end = () => {
            window.removeEventListener('pointermove', move);
            window.removeEventListener('pointerup', end);
            window.removeEventListener('pointercancel', end);
        };
        window.addEventListener('pointermove', move);
        window.addEventListener('pointerup', end);
        window.addEventListener('pointercancel', end);
    }
}
