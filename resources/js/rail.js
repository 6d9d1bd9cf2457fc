/**
 * The time rail: a bracket over fourteen days that can be drawn, moved and widened with pointer or arrow keys. It only
 * writes the window into the form's text field; the server reads it as if it had been typed.
 */
import { windowText } from './window-text.js';

const GRAIN = 300;

export function rails(root) {
    for (const rail of root.querySelectorAll?.('[data-rail]:not([data-live])') ?? []) {
        rail.dataset.live = '1';
        attach(rail);
    }
}

function attach(rail) {
    const svg = rail.querySelector('svg');
    const form = document.getElementById(rail.dataset.form);
    const field = form.elements.window;
    const from = Number(rail.dataset.from);
    const to = Number(rail.dataset.to);
    const zone = rail.dataset.zone;
    const bracket = rail.querySelector('.bracket');
    const edges = rail.querySelectorAll('.edge.now');
    const handles = rail.querySelectorAll('.handle');
    const said = rail.querySelector('.said');
    let window = { from: Number(rail.dataset.windowFrom), to: Number(rail.dataset.windowTo) };

    const at = (x) => {
        const box = svg.getBoundingClientRect();
        return from + Math.max(0, Math.min(1, (x - box.left) / box.width)) * (to - from);
    };
    const snap = (time, grain) => Math.round(time / grain) * grain;
    const x = (time) => ((time - from) / (to - from)) * 1000;

    const text = () => windowText(window.from, window.to, zone);
    const draw = () => {
        const left = Math.max(0, x(window.from));
        const right = Math.min(1000, x(window.to));
        bracket.setAttribute('x', left);
        bracket.setAttribute('width', Math.max(1, right - left));
        [left, right].forEach((place, i) => {
            edges[i].setAttribute('x1', place);
            edges[i].setAttribute('x2', place);
            handles[i].setAttribute('x', place - 6);
            handles[i].setAttribute('aria-valuenow', i === 0 ? window.from : window.to);
            handles[i].setAttribute('aria-valuetext', text());
        });
        said.textContent = text();
    };
    const commit = () => {
        field.value = text();
        form.requestSubmit();
    };

    svg.addEventListener('pointerdown', (event) => {
        const start = at(event.clientX);
        const before = { ...window };
        const handle = [...handles].indexOf(event.target);
        const inside = event.target === bracket && window.to - window.from < 0.9 * (to - from);
        const grain = (to - from) / svg.getBoundingClientRect().width > 600 ? 900 : GRAIN;
        let moved = false;
        svg.setPointerCapture(event.pointerId);
        const drag = (move) => {
            const now = at(move.clientX);
            if (Math.abs(x(now) - x(start)) > 3) moved = true;
            if (!moved) return;
            if (handle === 0) window.from = Math.min(snap(now, grain), window.to - GRAIN);
            else if (handle === 1) window.to = Math.max(snap(now, grain), window.from + GRAIN);
            else if (inside) {
                const shift = snap(now - start, grain);
                window = { from: before.from + shift, to: before.to + shift };
            } else window = { from: snap(Math.min(start, now), grain), to: Math.max(snap(Math.max(start, now), grain), snap(Math.min(start,
                now), grain) + grain) };
            draw();
        };
        const end = () => {
            svg.removeEventListener('pointermove', drag);
            svg.removeEventListener('pointercancel', end);
            // A press without a drag means this hour.
            if (!moved && handle < 0) {
                const hour = Math.floor(start / 3600) * 3600;
                window = { from: hour, to: hour + 3600 };
                draw();
            }
            if (moved || handle < 0) commit();
        };
        svg.addEventListener('pointermove', drag);
        svg.addEventListener('pointerup', end, { once: true });
        svg.addEventListener('pointercancel', end, { once: true });
    });

    let waiting;
    handles.forEach((handle, i) => handle.addEventListener('keydown', (event) => {
        const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -24, PageUp: 24 }[event.key];
        if (!step) {
            if (event.key === 'Enter') commit();
            return;
        }
        event.preventDefault();
        const size = event.shiftKey ? GRAIN : 3600;
        if (i === 0) window.from = Math.min(window.from + step * size, window.to - GRAIN);
        else window.to = Math.max(window.to + step * size, window.from + GRAIN);
        draw();
        clearTimeout(waiting);
        waiting = setTimeout(commit, 1200);
    }));
}
