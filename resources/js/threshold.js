/**
 * A threshold that is moved in its figure, by pointer or by arrow keys. It only writes into the field of the form; what comes of it is
 * rehearsed by the server.
 */
const STEPS = 100;
export const PAUSE_MS = 400;

export function thresholds(root) {
    for (const line of root.querySelectorAll?.('.threshold:not([data-live])') ?? []) {
        line.dataset.live = '1';
        attach(line);
    }
}

/** To three digits, as people would write it. */
export function written(value) {
    return value === 0 ? '0' : String(Number(value.toPrecision(3)));
}

function attach(line) {
    const svg = line.ownerSVGElement;
    const field = document.querySelector('#a-threshold');
    if (!field) return;
    const [top, bottom] = [Number(line.dataset.top), Number(line.dataset.bottom)];
    const most = Number(line.getAttribute('aria-valuemax'));
    let value = Number(line.getAttribute('aria-valuenow'));
    let dragged = false;
    let waiting = null;

    const show = (to) => {
        value = Number(written(Math.max(0, Math.min(most, to))));
        line.setAttribute('aria-valuenow', String(value));
        line.setAttribute('aria-valuetext', written(value));
        line.setAttribute('transform', `translate(0 ${bottom - (value / most) * (bottom - top)})`);
        field.value = written(value);
        // What was calm at the threshold before is so in proportion: the server puts it there.
        const calm = document.querySelector('#a-calm');
        if (calm) calm.value = '';
    };
    const send = () => {
        clearTimeout(waiting);
        waiting = null;
        field.dispatchEvent(new Event('change', { bubbles: true }));
    };
    const at = (event) => {
        const box = svg.getBoundingClientRect();
        const y = ((event.clientY - box.top) / box.height) * svg.viewBox.baseVal.height;
        return most * ((bottom - y) / (bottom - top));
    };
    line.addEventListener('pointerdown', (event) => {
        if (event.button !== 0) return;
        dragged = true;
        line.setPointerCapture?.(event.pointerId);
        event.preventDefault();
        line.focus();
    });
    line.addEventListener('pointermove', (event) => { if (dragged) show(at(event)); });
    line.addEventListener('pointerup', (event) => {
        if (!dragged) return;
        dragged = false;
        show(at(event));
        send();
    });
    line.addEventListener('pointercancel', () => { dragged = false; });
    line.addEventListener('keydown', (event) => {
        const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key];
        if (event.key === 'Home') show(0);
        else if (event.key === 'End') show(most);
        else if (step !== undefined) show(value + (step * most) / STEPS);
        else if (event.key === 'Enter') return void send();
        else return;
        event.preventDefault();
        event.stopPropagation();
        clearTimeout(waiting);
        waiting = setTimeout(send, PAUSE_MS);
    });
}
