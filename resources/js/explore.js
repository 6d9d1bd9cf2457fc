/**
 * Fields of a table of use are dragged onto rows, columns or filter; each place is a choice by keyboard as well, with the same result.
 */
export function explore(root) {
    for (const form of root.querySelectorAll?.('form[data-explore]:not([data-live-explore])') ?? []) {
        form.dataset.liveExplore = '1';
        attach(form);
    }
}

function attach(form) {
    let dragged = null;
    form.addEventListener('dragstart', (event) => {
        dragged = event.target.closest('[data-field]')?.dataset.field ?? null;
        if (dragged !== null) event.dataTransfer?.setData('text/plain', dragged);
    });
    form.addEventListener('dragend', () => {
        dragged = null;
        for (const zone of form.querySelectorAll('.zone.over')) zone.classList.remove('over');
    });
    for (const zone of form.querySelectorAll('[data-zone]')) {
        const select = zone.querySelector('select');
        const takes = () => dragged !== null && [...select.options].some((option) => option.value === dragged);
        zone.addEventListener('dragover', (event) => {
            if (!takes()) return;
            event.preventDefault();
            zone.classList.add('over');
        });
        zone.addEventListener('dragleave', () => zone.classList.remove('over'));
        zone.addEventListener('drop', (event) => {
            zone.classList.remove('over');
            if (!takes()) return;
            event.preventDefault();
            put(form, select, dragged);
        });
    }
}

/** What stood there goes where the field came from, so that no field stands in two places. */
function put(form, select, field) {
    const other = { rows: 'columns', columns: 'rows' }[select.name];
    const opposite = other === undefined ? null : form.elements[other];
    if (opposite?.value === field) opposite.value = select.value;
    if (select.value === field) return;
    select.value = field;
    select.dispatchEvent(new Event('change', { bubbles: true }));
}
