import htmx from 'htmx.org';
import Alpine from '@alpinejs/csp';
import { keyboard } from './keyboard.js';
import { rails } from './rail.js';
import { figures } from './figures.js';
import { timePlots } from './time-plot.js';
import { explore } from './explore.js';
import { filters } from './filters.js';
import { exportTables } from './export-table.js';
import { columns } from './columns.js';
import { tables } from './table.js';
import { thresholds } from './threshold.js';
import { upload } from './upload.js';
import { budgets } from './budget.js';
import { guard } from './guard.js';
import { scores } from './score.js';
import { hands } from './hand.js';
import { editors } from './editor.js';
import { workbench } from './workbench.js';

// The policy of the pages allows neither inline styles nor evaluated code.
htmx.config.includeIndicatorStyles = false;
htmx.config.allowEval = false;
htmx.config.historyCacheSize = 0;
window.htmx = htmx;

Alpine.data('upload', upload);
window.Alpine = Alpine;
Alpine.start();

filters(document);
keyboard(document);
rails(document);
figures(document);
timePlots(document);
thresholds(document);
explore(document);
exportTables(document);
columns(document);
tables(document);
workbench(document);
editors(document);
guard(document);
budgets(document);
scores(document);
hands(document);
document.addEventListener('htmx:load', (event) => {
    rails(event.target);
    figures(event.target);
    timePlots(event.target);
    thresholds(event.target);
    explore(event.target);
    exportTables(event.target);
    columns(event.target);
    tables(event.target);
    if (event.target.id !== 'content') return;
    // The whole of a page came anew.
    editors(event.target);
    guard(event.target);
    budgets(event.target);
    scores(event.target);
    hands(event.target);
});
// What was waited for is over: the page shows what came of it.
document.addEventListener('htmx:load', (event) => {
    if (event.target.matches?.('[data-reloads]')) window.location.reload();
});
// What is asked once more is not taken away under the pointer by a page that reads itself again.
document.addEventListener('htmx:beforeSwap', (event) => {
    if (event.detail.requestConfig?.triggeringEvent === undefined && event.target.querySelector?.('form[data-sure]')) {
        event.detail.shouldSwap = false;
    }
});
// Choices that should act at once, without a button press.
document.addEventListener('change', (event) => {
    if (event.target.closest('[data-submits]') && !event.target.closest('[data-filters]')) event.target.form.requestSubmit();
});
// Empty fields would only lengthen the address.
document.addEventListener('submit', (event) => {
    if (event.target.method !== 'get') return;
    for (const field of event.target.elements) {
        if (field.name && field.value === '' && field.type !== 'submit') field.disabled = true;
    }
    setTimeout(() => { for (const field of event.target.elements) field.disabled = false; }, 0);
});
