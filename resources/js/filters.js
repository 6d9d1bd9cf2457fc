/** Filters act at once: a choice when it is made, words when nobody has typed for a moment. */
export const PAUSE_MS = 350;

export function filters(document, send = (form) => form.requestSubmit()) {
    let waiting = null;
    const act = (form) => {
        clearTimeout(waiting);
        waiting = null;
        send(form);
    };
    const own = (event) => event.target.closest?.('form[data-filters]');
    document.addEventListener('input', (event) => {
        if (!own(event) || !event.target.matches('[type="search"]')) return;
        clearTimeout(waiting);
        const { form } = event.target;
        waiting = setTimeout(() => act(form), PAUSE_MS);
    });
    document.addEventListener('change', (event) => {
        // Words that were typed have been sent after the pause, unless it is not over.
        if (own(event) && (waiting !== null || !event.target.matches('[type="search"]'))) act(event.target.form);
    });
    // Empty fields would only lengthen the address.
    document.addEventListener('htmx:configRequest', (event) => {
        if (!own(event)) return;
        const { parameters } = event.detail;
        for (const name of Object.keys(parameters)) if (parameters[name] === '') delete parameters[name];
    });
    // Somebody types on: what they have typed must not be overwritten, and their next words are asked for anyway.
    document.addEventListener('htmx:beforeSwap', (event) => {
        if (own(event) && waiting !== null) event.detail.shouldSwap = false;
    });
    // What went wrong is told by the page itself.
    for (const name of ['htmx:responseError', 'htmx:sendError']) {
        document.addEventListener(name, (event) => { if (own(event)) event.target.closest('form').submit(); });
    }
}
