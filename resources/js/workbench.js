/** The workbench: running under the cursor, progress, stopping, sorting and copying of results. */
import { editor } from './editor.js';
import { placeOf } from './editor-words.js';

export function workbench(root) {
    const form = root.querySelector('[data-workbench]');
    if (!form) return;
    const area = form.querySelector('textarea');
    const runs = (which) => () => { send('run', which); return true; };
    editor(area, { keys: [{ key: 'Mod-Enter', run: runs('one') }, { key: 'Mod-Shift-Enter', run: runs('all') }] });

    let running = null;
    const outcome = document.getElementById('bench-outcome');
    const strip = document.querySelector('[data-running]');
    const send = async (mode, which) => {
        if (running) return;
        form.elements.mode.value = mode;
        form.elements.which.value = which;
        form.elements.at.value = area.editor?.cursor() ?? area.selectionStart;
        form.elements.key.value = crypto.randomUUID();
        running = { key: form.elements.key.value, since: performance.now() };
        const clock = setInterval(() => {
            const seconds = (performance.now() - running.since) / 1000;
            strip.hidden = seconds < 0.3;
            strip.querySelector('[data-elapsed]').textContent = `${seconds.toFixed(1)} s`;
        }, 100);
        try {
            let answer = await fetch(form.action, { method: 'POST', body: new FormData(form), headers: {
                Accept: 'text/html, application/json' } });
            // It runs outside of the web server; soon at first, then less often, the page asks whether it has ended.
            for (let pause = 60; answer.status === 202; pause = Math.min(1000, pause * 1.3)) {
                const { state } = await answer.json();
                const waits = state === 'waiting' && performance.now() - running.since > 3000;
                strip.querySelector('[data-state]').textContent = waits ? 'Waiting for a free worker' : 'Running';
                await new Promise((go) => setTimeout(go, pause));
                answer = await fetch(`${form.action}/${running.key}`, { headers: { Accept: 'text/html, application/json' } });
            }
            if (answer.ok || answer.headers.get('Content-Type')?.startsWith('text/html')) {
                outcome.innerHTML = await answer.text();
            } else {
                const told = await answer.json().catch(() => ({}));
                failed(outcome, told.message ?? `The server refused the run (${answer.status}).`);
            }
            outcome.querySelectorAll('table[data-result]').forEach(sorts);
            mark(outcome.querySelector('[data-mistake-at]'), area, Number(form.elements.at.value));
        } catch {
            failed(outcome, 'The connection broke. Whether the statement ended shows under "Before" once the page is loaded again.');
        } finally {
            clearInterval(clock);
            running = null;
            strip.hidden = true;
        }
    };
    form.addEventListener('submit', (event) => {
        event.preventDefault();
        send(event.submitter?.dataset.mode ?? 'run', event.submitter?.dataset.which ?? 'one');
    });
    document.querySelector('[data-stop]').addEventListener('click', () => {
        if (running) fetch(`${form.action}/${running.key}/stop`, { method: 'POST', headers: {
            'X-CSRF-TOKEN': form.elements._token.value } });
    });
    // Where the editor did not come.
    area.addEventListener('keydown', (event) => {
        if ((event.ctrlKey || event.metaKey) && event.key === 'Enter') {
            event.preventDefault();
            send('run', event.shiftKey ? 'all' : 'one');
        }
    });
    for (const button of document.querySelectorAll('[data-insert]')) {
        button.addEventListener('click', () => {
            if (area.editor) return area.editor.insert(button.dataset.insert);
            area.setRangeText(button.dataset.insert, area.selectionStart, area.selectionEnd, 'end');
            area.focus();
        });
    }
    outcome.addEventListener('click', (event) => {
        if (event.target.matches('[data-copies]')) copy(event.target);
    });
}

function sorts(table) {
    for (const button of table.querySelectorAll('thead button')) {
        button.addEventListener('click', () => {
            const cell = button.closest('th');
            const down = cell.getAttribute('aria-sort') === 'ascending';
            table.querySelectorAll('th').forEach((other) => other.removeAttribute('aria-sort'));
            cell.setAttribute('aria-sort', down ? 'descending' : 'ascending');
            const number = button.dataset.sortNumber === '1';
            const value = (row) => row.cells[cell.cellIndex].textContent;
            const order = (a, b) => {
                const [x, y] = [value(a), value(b)];
                if (x === 'NULL' || y === 'NULL') return (x === 'NULL' ? 0 : 1) - (y === 'NULL' ? 0 : 1);
                return number ? Number(x) - Number(y) : x.localeCompare(y);
            };
            const rows = [...table.tBodies[0].rows].sort((a, b) => (down ? -order(a, b) : order(a, b)));
            table.tBodies[0].append(...rows);
        });
    }
}

/** Shows in the editor where the statement is wrong. */
function mark(told, area, near) {
    if (!area.editor) return;
    const begins = told ? placeOf(area.value, told.dataset.mistakeIn, near) : -1;
    area.editor.mark(begins === -1 ? null : begins + Number(told.dataset.mistakeAt));
}

async function copy(button) {
    const table = button.closest('[data-outcome]').querySelector('table');
    const text = [...table.rows].map((row) => [...row.cells].map((cell) => (cell.querySelector('button')
        ?? cell).textContent.trim()).join('\t')).join('\n');
    try {
        await navigator.clipboard.writeText(text);
        button.textContent = 'Copied';
    } catch {
        button.textContent = 'The browser did not allow copying';
    }
}

function failed(outcome, text) {
    const notice = document.createElement('div');
    notice.className = 'notice bad';
    notice.setAttribute('role', 'alert');
    notice.textContent = text;
    outcome.replaceChildren(notice);
}
