/** Editing of policies: all at once, lists with completion, conditions checked while they are written. */
const token = () => document.querySelector('meta[name="csrf-token"]').content;

function ticks(root) {
    root.querySelectorAll('[data-ticks-all]').forEach((box) => box.addEventListener('change', () => {
        box.closest('[data-all]').querySelectorAll('tbody input[type="checkbox"]:not(:disabled)').forEach((one) => {
            one.checked = box.checked; });
    }));
}

/** An input with completion under a field of lines: what is chosen becomes a line of its own. */
function lists(root) {
    root.querySelectorAll('textarea[data-list]').forEach((area) => {
        const adder = document.createElement('input');
        adder.className = 'form-control adder';
        adder.setAttribute('list', area.dataset.list);
        adder.setAttribute('aria-label', `Add to ${area.labels[0]?.textContent.trim() ?? 'the list'}`);
        adder.placeholder = 'add';
        const take = () => {
            if (adder.value.trim() === '') return;
            const lines = area.value.split('\n').filter((line) => line.trim() !== '');
            if (!lines.includes(adder.value.trim())) lines.push(adder.value.trim());
            area.value = lines.join('\n');
            adder.value = '';
        };
        adder.addEventListener('keydown', (event) => { if (event.key === 'Enter') { event.preventDefault(); take(); } });
        adder.addEventListener('change', take);
        area.after(adder);
    });
}

function conditions(root) {
    root.querySelectorAll('[data-item-form]').forEach((form) => {
        form.querySelectorAll('[data-checked]').forEach((area) => {
            const says = form.querySelector(`#${area.id}-says`);
            let timer;
            const check = async () => {
                if (area.value.trim() === '') { says.textContent = area.dataset.checked === 'condition' ? 'It always holds.' : ''; return; }
                const scope = form.elements['fields[scope]']?.value ?? '';
                const response = await fetch(form.dataset.checkedAt, { method: 'POST', headers: { 'Content-Type': 'application/json',
                    Accept: 'application/json', 'X-CSRF-TOKEN': token() }, body: JSON.stringify({ type: area.dataset.checked,
                        text: area.value, scope }) });
                if (!response.ok) return;
                const answer = await response.json();
                says.textContent = answer.says;
                says.classList.toggle('bad-text', !answer.ok);
            };
            area.addEventListener('input', () => { clearTimeout(timer); timer = setTimeout(check, 250); });
            if (area.value !== '') check();
        });
    });
}

export function guard(root) {
    ticks(root);
    lists(root);
    conditions(root);
}

// What cannot be taken back lightly is asked once more, in the place of the button.
document.addEventListener('submit', (event) => {
    const form = event.target;
    if (!form.dataset.confirm || form.dataset.sure) return;
    event.preventDefault();
    form.dataset.sure = '1';
    const button = event.submitter ?? form.querySelector('button');
    button.textContent = form.dataset.confirm;
    button.focus();
});
