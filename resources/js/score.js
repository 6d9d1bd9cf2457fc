/**
 * The score of a job: a stave a stage, a mark a task, the critical path inked through them, and a playhead that replays
 * the run. What does not change is drawn once, pale and in full; a frame copies parts of both and adds the playhead.
 */
import { bytes, clock, digits, duration, moments } from './quantity.js';

const REPLAY_MS = 30_000;
const FOOT = 20;
const TONES = 5;
const FLAG = { failed: 1, retried: 2, critical: 4, open: 8 };

export function scores(root) {
    for (const section of root.querySelectorAll?.('[data-score]:not([data-live])') ?? []) {
        section.dataset.live = '1';
        load(section);
    }
}

async function load(section) {
    const line = section.querySelector('[data-score-line]');
    try {
        const answer = await fetch(section.dataset.score);
        if (!answer.ok) throw new Error(String(answer.status));
        const score = new Score(section, read(await answer.arrayBuffer()));
        if ('growing' in section.dataset) grow(section, score);
    } catch {
        line.textContent = 'The marks could not be loaded. Load the page again.';
    }
}

/** A run that is not over yet: its marks are fetched again and again, until the page is loaded again at its end. */
function grow(section, score) {
    setTimeout(async () => {
        if (!section.isConnected) return;
        const answer = await fetch(section.dataset.score).catch(() => null);
        if (answer?.ok && !score.playing) score.renew(read(await answer.arrayBuffer()));
        grow(section, score);
    }, 1500);
}

function read(buffer) {
    const bytes = new Uint8Array(buffer);
    const end = bytes.indexOf(10) + 1;
    const head = JSON.parse(new TextDecoder().decode(bytes.subarray(0, end)));
    head.columns.forEach((column, i) => { head[column] = new Int32Array(buffer, end + 4 * i * head.tasks, head.tasks); });
    return head;
}

class Score {
    constructor(section, data) {
        this.section = section;
        this.data = data;
        this.canvas = section.querySelector('[data-score-canvas]');
        this.cells = section.querySelector('[data-score-workers]');
        this.line = section.querySelector('[data-score-line]');
        this.scrub = section.querySelector('[data-score-scrub]');
        this.playButton = section.querySelector('[data-score-play]');
        this.tone = section.querySelector('[data-score-tone]');
        this.speed = section.querySelector('[data-score-speed]');
        this.at = data.elapsed;
        this.hand = -1;
        this.playing = false;
        this.order = data.stages.map((_, i) => i).sort((a, b) => this.first(a) - this.first(b) || a - b);
        this.lay();
        this.listen();
        this.redraw();
    }

    renew(data) {
        this.data = data;
        this.firsts = null;
        this.at = data.elapsed;
        this.order = data.stages.map((_, i) => i).sort((a, b) => this.first(a) - this.first(b) || a - b);
        this.lay();
        this.redraw();
    }

    first(stage) {
        this.firsts ??= this.data.stages.map((_, s) => {
            let least = Infinity;
            for (let i = 0; i < this.data.tasks; i++) if (this.data.stage[i] === s
                && this.data.start[i] < least) least = this.data.start[i];
            return least;
        });
        return this.firsts[stage];
    }

    lay() {
        const { data } = this;
        const count = Math.max(1, data.stages.length);
        this.stave = Math.max(11, Math.min(54, Math.floor(560 / count)));
        this.height = this.stave * count + FOOT;
        // Each task gets the first lane of its stave that is free, as long as the stave has lanes.
        this.lanes = new Array(count).fill(null).map(() => []);
        this.lane = new Int32Array(data.tasks);
        const sorted = Array.from({ length: data.tasks }, (_, i) => i).sort((a, b) => data.start[a] - data.start[b]);
        const most = Math.max(2, Math.floor((this.stave - 4) / 3));
        this.dense = new Array(count).fill(false);
        for (const i of sorted) {
            const stage = data.stage[i];
            if (this.dense[stage]) continue;
            const ends = this.lanes[stage];
            let lane = 0;
            while (lane < ends.length && ends[lane] > data.start[i]) lane++;
            if (lane >= most) { this.dense[stage] = true; continue; }
            ends[lane] = data.end[i];
            this.lane[i] = lane;
        }
        this.place = new Array(count);
        this.order.forEach((stage, row) => { this.place[stage] = row * this.stave; });
        this.path = sorted.filter((i) => data.flags[i] & FLAG.critical);
    }

    listen() {
        const { canvas } = this;
        this.playButton.addEventListener('click', () => (this.playing ? this.pause() : this.play()));
        this.scrub.addEventListener('input', () => { this.at = (Number(this.scrub.value) / 1000) * this.data.elapsed; this.began = null;
            this.frame(); });
        this.tone.addEventListener('change', () => this.redraw());
        canvas.addEventListener('keydown', (event) => {
            const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10, Home: -1000, End: 1000 }[event.key];
            if (event.key === ' ') { event.preventDefault(); this.playing ? this.pause() : this.play(); }
            if (step) { event.preventDefault(); this.seek(this.at + (step * this.data.elapsed) / 100); }
            if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
                event.preventDefault();
                const row = this.order.indexOf(this.hand) + (event.key === 'ArrowDown' ? 1 : -1);
                this.take(this.order[Math.max(0, Math.min(this.order.length - 1, row))]);
            }
        });
        canvas.addEventListener('click', (event) => {
            const box = canvas.getBoundingClientRect();
            const row = Math.floor((event.clientY - box.top) / this.stave);
            const stage = this.order[row] ?? -1;
            this.take(stage === this.hand ? -1 : stage);
        });
        canvas.addEventListener('pointermove', (event) => this.point(event));
        new ResizeObserver(() => { if (Math.abs(canvas.clientWidth - this.width) > 1) this.redraw(); }).observe(canvas.parentElement);
        new MutationObserver(() => this.redraw()).observe(document.documentElement, { attributeFilter: ['data-theme'] });
    }

    seek(at) {
        this.at = Math.max(0, Math.min(this.data.elapsed, at));
        this.began = null;
        this.scrub.value = String(Math.round((1000 * this.at) / Math.max(1, this.data.elapsed)));
        this.frame();
    }

    take(stage) {
        this.hand = stage;
        this.redraw();
        if (stage >= 0) {
            const { stages } = this.data;
            const after = stages[stage].after.map((s) => stages[s].name);
            this.line.textContent = `${stages[stage].name} waits for ${after.length ? after.join(', ') : 'no other stage'}.`;
        }
    }

    play() {
        if (this.at >= this.data.elapsed) this.at = 0;
        this.playing = true;
        this.began = null;
        this.frames = 0;
        this.playButton.textContent = 'Pause';
        this.playButton.setAttribute('aria-pressed', 'true');
        this.since = performance.now();
        const step = (now) => {
            if (!this.playing) return;
            this.began ??= { now, at: this.at, speed: this.speed.value };
            if (this.began.speed !== this.speed.value) this.began = { now, at: this.at, speed: this.speed.value };
            this.at = Math.min(this.data.elapsed,
                this.began.at + ((now - this.began.now) / REPLAY_MS) * Number(this.speed.value) * this.data.elapsed);
            this.scrub.value = String(Math.round((1000 * this.at) / Math.max(1, this.data.elapsed)));
            this.frame();
            this.frames++;
            // Measured, so that anyone can read off whether it runs smoothly.
            this.section.dataset.framesPerSecond = ((1000 * this.frames) / Math.max(1, now - this.since)).toFixed(1);
            if (this.at >= this.data.elapsed) this.pause();
            else requestAnimationFrame(step);
        };
        requestAnimationFrame(step);
    }

    pause() {
        this.playing = false;
        this.playButton.textContent = 'Play';
        this.playButton.setAttribute('aria-pressed', 'false');
    }

    x(tick) {
        return this.gutter + (tick / Math.max(1, this.data.elapsed)) * (this.width - this.gutter - 8);
    }

    y(i) {
        const stage = this.data.stage[i];
        const lanes = Math.max(1, this.lanes[stage].length);
        return this.place[stage] + (this.dense[stage] ? this.stave * 0.55 : 2 + ((this.stave - 4) * (this.lane[i] + 0.5)) / lanes);
    }

    measure(i) {
        const { data } = this;
        return this.tone.value === 'time' ? data.end[i] - data.start[i] : data[this.tone.value][i];
    }

    /** All that stays while the playhead moves, twice: pale and in full. */
    redraw() {
        this.width = Math.max(240, this.canvas.parentElement.clientWidth);
        // Room for the names of stages.
        this.gutter = this.width < 600 ? 88 : 190;
        this.ratio = window.devicePixelRatio || 1;
        const style = getComputedStyle(document.documentElement);
        this.ink = Object.fromEntries(['ink', 'quiet', 'rule', 'ground', 'lead', 'trouble', 'raised', 'h1', 'h2', 'h3', 'h4', 'h5',
            'h6'].map((name) => [name, style.getPropertyValue(`--${name}`).trim()]));
        size(this.canvas, this.width, this.height, this.ratio);
        const values = Array.from({ length: this.data.tasks }, (_, i) => this.measure(i)).sort((a, b) => a - b);
        this.limits = Array.from({ length: TONES - 1 }, (_, k) => values[Math.floor(((k + 1) * values.length) / TONES)] ?? 0);
        this.full = this.layer(false);
        this.pale = this.layer(true);
        this.frame();
    }

    shade(value) {
        let tone = 0;
        while (tone < TONES - 1 && value > this.limits[tone]) tone++;
        return this.ink[`h${tone + 2}`];
    }

    layer(pale) {
        const canvas = document.createElement('canvas');
        size(canvas, this.width, this.height, this.ratio);
        const g = canvas.getContext('2d');
        g.scale(this.ratio, this.ratio);
        g.font = '12px "Figtree Variable", Figtree, system-ui, sans-serif';
        g.textBaseline = 'middle';
        const { data, ink } = this;
        const waits = this.hand >= 0 ? new Set(data.stages[this.hand].after) : new Set();
        this.order.forEach((stage) => {
            const top = this.place[stage];
            g.strokeStyle = ink.rule;
            g.lineWidth = 0.5;
            // The lines of a stave, as many as it has room for.
            for (let k = 0; k < Math.min(5, Math.floor(this.stave / 6) + 1); k++) {
                const y = top + 3 + (k * (this.stave - 6)) / Math.max(1, Math.min(5, Math.floor(this.stave / 6) + 1) - 1 || 1);
                g.beginPath(); g.moveTo(this.gutter, y); g.lineTo(this.width - 8, y); g.stroke();
            }
            g.fillStyle = stage === this.hand ? ink.lead : (waits.has(stage) ? ink.ink : ink.quiet);
            const size = `${stage === this.hand ? 'bold ' : ''}${Math.min(12, this.stave - 1)}px`;
            g.font = `${size} "Figtree Variable", Figtree, system-ui, sans-serif`;
            g.fillText(fit(g, data.stages[stage].name, this.gutter - 28), 22, top + this.stave / 2);
        });
        if (this.hand >= 0) this.arcs(g, waits);
        this.marks(g, pale);
        if (!pale) this.critical(g);
        g.fillStyle = ink.quiet;
        g.font = '11.5px "Figtree Variable", Figtree, system-ui, sans-serif';
        for (const us of moments(data.elapsed * data.tickUs, this.width < 600 ? 3 : 7)) {
            const at = this.x(us / data.tickUs);
            g.textAlign = at > this.width - 50 ? 'right' : (us === 0 ? 'left' : 'center');
            g.fillText(us === 0 ? 'start' : duration(us), at, this.height - FOOT / 2 + 2);
        }
        return canvas;
    }

    /** What the stage in hand waits for: curves at the left of the staves. */
    arcs(g, waits) {
        g.strokeStyle = this.ink.lead;
        g.lineWidth = 1.4;
        const to = this.place[this.hand] + this.stave / 2;
        for (const stage of waits) {
            const from = this.place[stage] + this.stave / 2;
            g.beginPath(); g.moveTo(18, from); g.bezierCurveTo(2, from, 2, to, 18, to); g.stroke();
            g.beginPath(); g.arc(18, from, 2.5, 0, 7); g.fillStyle = this.ink.lead; g.fill();
        }
    }

    marks(g, pale) {
        const { data } = this;
        const columns = new Map();
        g.globalAlpha = pale ? 0.2 : 0.92;
        for (let i = 0; i < data.tasks; i++) {
            const stage = data.stage[i];
            const from = this.x(data.start[i]);
            const to = this.x(data.end[i]);
            if (this.dense[stage]) {
                if (!columns.has(stage)) columns.set(stage, { count: new Float32Array(this.width + 2),
                    sum: new Float32Array(this.width + 2) });
                const column = columns.get(stage);
                const value = this.measure(i);
                for (let px = Math.floor(from); px <= to; px++) {
                    const part = Math.max(0.02, Math.min(px + 1, to) - Math.max(px, from));
                    column.count[px] += part;
                    column.sum[px] += part * value;
                }
                continue;
            }
            const lanes = Math.max(1, this.lanes[stage].length);
            const high = Math.max(1.5, Math.min(7, (this.stave - 4) / lanes - 1));
            g.fillStyle = data.flags[i] & FLAG.failed ? this.ink.trouble : this.shade(this.measure(i));
            g.fillRect(from, this.y(i) - high / 2, Math.max(1, to - from), high);
            if (data.flags[i] & FLAG.retried && high > 2) { g.fillStyle = this.ink.trouble; g.fillRect(from, this.y(i) - high / 2, 2,
                high); }
        }
        for (const [stage, column] of columns) {
            const most = column.count.reduce((a, b) => Math.max(a, b), 0);
            for (let px = 0; px < column.count.length; px++) {
                if (column.count[px] === 0) continue;
                const high = Math.max(1, ((this.stave - 4) * column.count[px]) / most);
                g.fillStyle = this.shade(column.sum[px] / column.count[px]);
                g.fillRect(px, this.place[stage] + this.stave - 2 - high, 1, high);
            }
        }
        g.globalAlpha = 1;
    }

    critical(g) {
        g.strokeStyle = this.ink.ink;
        g.lineWidth = 1.6;
        g.lineJoin = 'round';
        g.beginPath();
        this.path.forEach((i, k) => {
            const y = this.y(i);
            k === 0 ? g.moveTo(this.x(this.data.start[i]), y) : g.lineTo(this.x(this.data.start[i]), y);
            g.lineTo(this.x(this.data.end[i]), y);
        });
        g.stroke();
        for (const i of this.path) { g.beginPath(); g.arc(this.x(this.data.end[i]), this.y(i), 1.8, 0, 7); g.fillStyle = this.ink.ink;
            g.fill(); }
    }

    frame() {
        const g = this.canvas.getContext('2d');
        const head = this.x(this.at);
        const cut = Math.round(head * this.ratio);
        g.setTransform(1, 0, 0, 1, 0, 0);
        g.clearRect(0, 0, this.canvas.width, this.canvas.height);
        if (cut < this.canvas.width) g.drawImage(this.pale, 0, 0);
        if (cut > 0) {
            g.clearRect(0, 0, cut, this.canvas.height);
            g.drawImage(this.full, 0, 0, cut, this.canvas.height, 0, 0, cut, this.canvas.height);
        }
        g.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
        g.strokeStyle = this.ink.lead;
        g.lineWidth = 1.5;
        g.beginPath(); g.moveTo(head, 0); g.lineTo(head, this.height - FOOT + 2); g.stroke();
        this.tally();
    }

    /** Workers at work at the playhead: a cell a worker where they have room, a share of the strip otherwise. */
    tally() {
        const { data, at } = this;
        const busy = (this.busy ??= new Uint8Array(Math.max(data.workers, 1) + 1));
        busy.fill(0);
        let working = 0;
        let done = 0;
        const end = at >= data.elapsed;
        for (let i = 0; i < data.tasks; i++) {
            if (data.end[i] <= at || end) done += data.flags[i] & FLAG.open ? 0 : 1;
            if (data.start[i] <= at && (data.end[i] > at || data.flags[i] & FLAG.open)) {
                working++;
                if (data.worker[i] < busy.length) busy[data.worker[i]] = 1;
            }
        }
        const width = this.width - this.gutter - 8;
        const side = Math.max(2, Math.min(14, Math.floor(Math.sqrt((width * 52) / Math.max(1, data.workers)))));
        const across = Math.max(1, Math.floor(width / side));
        const rows = Math.ceil(data.workers / across);
        const high = side > 2 ? rows * side + 2 : 18;
        if (this.cellsHigh !== high || this.cellsWide !== this.width) {
            this.cellsHigh = high;
            this.cellsWide = this.width;
            size(this.cells, this.width, high, this.ratio);
        }
        const g = this.cells.getContext('2d');
        g.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
        g.clearRect(0, 0, this.width, high);
        g.fillStyle = this.ink.quiet;
        g.font = '12px "Figtree Variable", Figtree, system-ui, sans-serif';
        g.textBaseline = 'middle';
        g.fillText('workers', 22, Math.min(high / 2, 9));
        if (side > 2) {
            g.fillStyle = this.ink.rule;
            for (let w = 0; w < data.workers; w++) if (!busy[w]) g.fillRect(this.gutter + (w % across) * side,
                Math.floor(w / across) * side + 1, side - 1, side - 1);
            g.fillStyle = this.ink.lead;
            for (let w = 0; w < data.workers; w++) if (busy[w]) g.fillRect(this.gutter + (w % across) * side,
                Math.floor(w / across) * side + 1, side - 1, side - 1);
        } else {
            g.fillStyle = this.ink.rule;
            g.fillRect(this.gutter, 1, width, 14);
            g.fillStyle = this.ink.lead;
            g.fillRect(this.gutter, 1, (width * Math.min(working, data.workers)) / Math.max(1, data.workers), 14);
        }
        const moment = clock((data.startUs + at * data.tickUs) / 1000, this.section.dataset.zone);
        this.line.textContent = `${moment}, ${duration(at * data.tickUs)} after the start: `
            + `${digits(working)} of ${digits(data.workers)} workers at work, ${digits(done)} of ${digits(data.of)} tasks done`;
    }

    /** Says what lies under the pointer. */
    point(event) {
        if (this.playing) return;
        const box = this.canvas.getBoundingClientRect();
        const [px, py] = [event.clientX - box.left, event.clientY - box.top];
        const stage = this.order[Math.floor(py / this.stave)];
        if (stage === undefined || px < this.gutter) return;
        const { data } = this;
        const tick = ((px - this.gutter) / (this.width - this.gutter - 8)) * data.elapsed;
        let running = 0;
        let nearest = -1;
        for (let i = 0; i < data.tasks; i++) {
            if (data.stage[i] !== stage || data.start[i] > tick || data.end[i] < tick) continue;
            running++;
            if (!this.dense[stage] && Math.abs(this.y(i) - py) < 4) nearest = i;
        }
        this.line.textContent = nearest < 0
            ? `${data.stages[stage].name}, ${duration(tick * data.tickUs)} after the start: `
                + `${running} ${running === 1 ? 'task' : 'tasks'} running`
            : `${data.stages[stage].name}: ${taskWords(data, nearest)}`;
    }
}

function taskWords(data, task) {
    const [took, flags] = [(data.end[task] - data.start[task]) * data.tickUs, data.flags[task]];
    return `a task of ${duration(took)}, waited ${duration(data.wait[task] * data.tickUs)}, read ${bytes(data.bytes_read[task] * 1024)}`
        + `${flags & FLAG.critical ? ', on the critical path' : ''}${flags & FLAG.retried ? ', tried again' : ''}`
        + `${flags & FLAG.failed ? ', failed' : ''}`;
}

function size(canvas, width, height, ratio) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
}

function fit(g, text, width) {
    if (g.measureText(text).width <= width) return text;
    let cut = text;
    while (cut.length > 1 && g.measureText(`${cut}…`).width > width) cut = cut.slice(0, -1);
    return `${cut}…`;
}
