/** Single-key commands outside of input fields. Every one of them also has a link or button. */
export function keyboard(document) {
    const rows = () => [...document.querySelectorAll('[data-row]')];
    let at = -1;

    const move = (step) => {
        const all = rows();
        if (all.length === 0) return;
        all[at]?.classList.remove('at');
        at = Math.max(0, Math.min(all.length - 1, at + step));
        all[at].classList.add('at');
        all[at].scrollIntoView({ block: 'nearest' });
        all[at].querySelector('a')?.focus({ preventScroll: true });
    };

    const sheet = () => document.getElementById('key-sheet');

    document.addEventListener('click', (event) => {
        if (event.target.closest('[data-opens-sheet]')) sheet()?.showModal();
        if (event.target.closest('[data-closes-sheet]')) sheet()?.close();
    });

    document.addEventListener('keydown', (event) => {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const typing = event.target.closest('input, textarea, select, [contenteditable]');
        if (typing) {
            if (event.key === 'Escape') typing.blur();
            return;
        }
        if (sheet()?.open) return;
        const go = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
        if (go) {
            event.preventDefault();
            go.tagName === 'INPUT' ? (go.focus(), go.select()) : go.click();
        } else if (event.key === 'j') {
            move(1);
        } else if (event.key === 'k') {
            move(-1);
        } else if (event.key === 'Enter' && at >= 0 && document.activeElement === document.body) {
            rows()[at]?.querySelector('a')?.click();
        } else if (event.key === 'Escape') {
            document.querySelector('[data-back]')?.click();
        } else if (event.key === '?') {
            sheet()?.showModal();
        }
    });
}
