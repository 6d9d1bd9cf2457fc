/** The SQL editor: colours, completion, running under the cursor, progress, stopping, sorting and copying of results. */
const TOKEN = /(--[^\n]*|\/\*[\s\S]*?(?:\*\/|$))|('(?:[^']|'')*'?)|(\b\d+(?:\.\d+)?\b)|("(?:[^"]|"")*"?)|([A-Za-z_][\w$]*)/g;
const OFFERED = 12;

export function workbench(root) {
    const form = root.querySelector('[data-workbench]');
    if (!form) return;
    const area = form.querySelector('textarea');
    const under = form.querySelector('pre.under');
    const words = JSON.parse(form.dataset.words);
    const keywords = new Set(words.filter(([, what]) => what === 'keyword').map(([word]) => word));
    const paint = () => {
        under.replaceChildren(...pieces(area.value, keywords));
        under.scrollTop = area.scrollTop;
        area.style.height = 'auto';
        area.rows = Math.min(26, Math.max(10, area.value.split('\n').length + 1));
    };
    area.addEventListener('input', () => { paint(); offers.update(); });
    area.addEventListener('scroll', () => { under.scrollTop = area.scrollTop; under.scrollLeft = area.scrollLeft; });
    paint();
    const offers = completion(form.querySelector('.offers'), area, words, paint);

    let running = null;
    const outcome = document.getElementById('bench-outcome');
    const strip = document.querySelector('[data-running]');
    const send = async (mode, which) => {
        if (running) return;
        offers.close();
        form.elements.mode.value = mode;
        form.elements.which.value = which;
        form.elements.at.value = area.selectionStart;
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
            outcome.querySelectorAll('table[data-sorts]').forEach(sorts);
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
    area.addEventListener('keydown', (event) => {
        if ((event.ctrlKey || event.metaKey) && event.key === 'Enter') {
            event.preventDefault();
            send('run', event.shiftKey ? 'all' : 'one');
        }
    });
    for (const button of document.querySelectorAll('[data-insert]')) {
        button.addEventListener('click', () => {
            area.setRangeText(button.dataset.insert, area.selectionStart, area.selectionEnd, 'end');
            area.focus();
            paint();
        });
    }
    outcome.addEventListener('click', (event) => {
        if (event.target.matches('[data-copies]')) copy(event.target);
    });
}

function pieces(text, keywords) {
    const parts = [];
    let at = 0;
    for (const match of text.matchAll(TOKEN)) {
        if (match.index > at) parts.push(text.slice(at, match.index));
        const kind = match[1] ? 'com' : match[2] || match[3] ? 'lit' : match[5] && keywords.has(match[5].toUpperCase()) ? 'kw' : null;
        if (kind) {
            const span = document.createElement('span');
            span.className = kind;
            span.textContent = match[0];
            parts.push(span);
        } else parts.push(match[0]);
        at = match.index + match[0].length;
    }
    parts.push(text.slice(at) + '\n');
    return parts;
}

function completion(list, area, words, paint) {
    let chosen = 0;
    const begun = () => area.value.slice(0, area.selectionStart).match(/[\w.]*$/)[0];
    const close = () => { list.hidden = true; area.removeAttribute('aria-activedescendant'); };
    const mark = () => [...list.children].forEach((item, i) => {
        item.setAttribute('aria-selected', String(i === chosen));
        if (i === chosen) { area.setAttribute('aria-activedescendant', item.id); item.scrollIntoView({ block: 'nearest' }); }
    });
    const take = (word) => {
        const start = area.selectionStart - begun().length;
        area.setRangeText(word, start, area.selectionStart, 'end');
        close();
        paint();
        area.focus();
    };
    const show = (least) => {
        const text = begun().toLowerCase();
        const tail = text.split('.').pop();
        const found = text.length < least ? [] : words.filter(([word]) => {
            const low = word.toLowerCase();
            return (low.startsWith(text) || (tail !== '' && low.startsWith(tail)) || low.split('.').pop().startsWith(tail || '\0'))
                && low !== text;
        }).slice(0, OFFERED);
        if (found.length === 0) return close();
        chosen = 0;
        list.replaceChildren(...found.map(([word, what], i) => {
            const item = document.createElement('li');
            item.id = `offer-${i}`;
            item.setAttribute('role', 'option');
            item.textContent = word;
            const note = document.createElement('span');
            note.className = 'quiet small';
            note.textContent = ` ${what}`;
            item.append(note);
            item.addEventListener('mousedown', (event) => { event.preventDefault(); take(text.includes('.') && !word.includes('.')
                ? `${text.slice(0, text.lastIndexOf('.') + 1)}${word}` : word); });
            return item;
        }));
        list.hidden = false;
        mark();
    };
    area.addEventListener('keydown', (event) => {
        if (event.ctrlKey && event.code === 'Space') { event.preventDefault(); show(0); return; }
        if (list.hidden || event.ctrlKey) return;
        if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
            event.preventDefault();
            chosen = (chosen + (event.key === 'ArrowDown' ? 1 : -1) + list.children.length) % list.children.length;
            mark();
        } else if (event.key === 'Tab' || event.key === 'Enter') {
            event.preventDefault();
            list.children[chosen].dispatchEvent(new MouseEvent('mousedown', { cancelable: true }));
        } else if (event.key === 'Escape') { event.stopPropagation(); close(); }
    });
    area.addEventListener('blur', close);
    return { update: () => show(2), close };
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
