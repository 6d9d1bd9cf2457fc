/** Fields that become editors. Until the editor has come, and without it, the field can be used as it is. */
const found = new WeakMap();

export function editor(area, options = {}) {
    if (!found.has(area)) found.set(area, import('./editor-view.js').then(({ mount }) => mount(area, options)).catch(() => null));
    return found.get(area);
}

export function editors(root) {
    for (const area of root.querySelectorAll?.('textarea[data-editor]') ?? []) {
        if (!area.closest('[data-workbench]')) editor(area);
    }
}
