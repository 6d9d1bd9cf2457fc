/** Says under a figure what the pointer is over; the same words are the title of the mark. */
export function figures(root) {
    for (const figure of root.querySelectorAll?.('figure[data-figure]:not([data-live])') ?? []) {
        figure.dataset.live = '1';
        const line = figure.querySelector('.reading-line');
        const show = (event) => {
            const mark = event.target.closest('rect, a')?.querySelector('title');
            if (mark && line) line.textContent = mark.textContent;
        };
        figure.addEventListener('pointerover', show);
        figure.addEventListener('focusin', show);
    }
}
