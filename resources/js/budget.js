// Shows the set of rollups that was chosen for the space the slider stands at.
export function budgets(root) {
    for (const section of root.querySelectorAll('[data-budget]')) {
        const slider = section.querySelector('input[type="range"]');
        const line = section.querySelector('[data-budget-line]');
        const places = line ? JSON.parse(line.dataset.places) : [];
        const show = () => {
            for (const set of section.querySelectorAll('[data-budget-set]')) {
                const here = set.dataset.budgetSet === slider.value;
                set.hidden = !here;
                if (here) {
                    section.querySelector('[data-budget-said]').textContent = set.dataset.said;
                    const url = new URL(location.href);
                    url.searchParams.set('space', Number(set.dataset.space).toFixed(3));
                    history.replaceState(null, '', url);
                }
            }
            line?.setAttribute('transform', `translate(${places[Number(slider.value)]} 0)`);
        };
        slider?.addEventListener('input', show);
    }
}
