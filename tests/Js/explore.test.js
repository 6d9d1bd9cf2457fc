import { expect, test, vi } from 'vitest';
import { explore } from '../../resources/js/explore.js';

function form() {
    const option = (key, chosen) => `<option ${key === chosen ? 'selected' : ''}>${key}</option>`;
    const options = (chosen) => ['day', 'team', 'person'].map((key) => option(key, chosen)).join('');
    document.body.innerHTML = `<form data-explore>
        ${['day', 'team', 'person'].map((key) => `<span draggable="true" data-field="${key}">${key}</span>`).join('')}
        <div data-zone="rows" class="zone"><select name="rows">${options('team')}</select></div>
        <div data-zone="columns" class="zone"><select name="columns">${options('day')}</select></div>
        <div data-zone="filter" class="zone"><select name="filter"><option value=""></option><option>team</option><option>person</option>
        </select></div></form>`;
    const element = document.querySelector('form');
    const changed = vi.fn();
    element.addEventListener('change', (event) => changed(event.target.name, event.target.value));
    explore(document);
    const fire = (target, type) => {
        const event = new Event(type, { bubbles: true, cancelable: true });
        target.dispatchEvent(event);
        return event;
    };
    const drag = (field, zone) => {
        fire(document.querySelector(`[data-field=${field}]`), 'dragstart');
        const target = document.querySelector(`[data-zone=${zone}]`);
        const over = fire(target, 'dragover');
        const lit = target.classList.contains('over');
        fire(target, 'drop');
        fire(document.querySelector(`[data-field=${field}]`), 'dragend');
        return { taken: over.defaultPrevented, lit, still: target.classList.contains('over') };
    };
    const chosen = () => [element.elements.rows.value, element.elements.columns.value, element.elements.filter.value];
    return { drag, chosen, changed, fire };
}

test('a field dropped on rows is chosen there, and acts as a choice by keyboard does', () => {
    const { drag, chosen, changed } = form();
    expect(drag('person', 'rows')).toEqual({ taken: true, lit: true, still: false });
    expect(chosen()).toEqual(['person', 'day', '']);
    expect(changed.mock.calls).toEqual([['rows', 'person']]);
});

test('a field that stands on the other side changes places', () => {
    const { drag, chosen, changed } = form();
    drag('day', 'rows');
    expect(chosen()).toEqual(['day', 'team', '']);
    expect(changed).toHaveBeenCalledTimes(1);
});

test('what is there already, or cannot stand there, changes nothing', () => {
    const { drag, chosen, changed, fire } = form();
    drag('team', 'rows');
    expect(drag('day', 'filter')).toEqual({ taken: false, lit: false, still: false });
    const zone = document.querySelector('[data-zone=rows]');
    expect(fire(zone, 'dragover').defaultPrevented).toBe(false);
    fire(zone, 'drop');
    expect(chosen()).toEqual(['team', 'day', '']);
    expect(changed).not.toHaveBeenCalled();
});

test('a zone that was only passed is not lit any more, and it is attached once', () => {
    const { drag, changed, fire } = form();
    explore(document);
    const zone = document.querySelector('[data-zone=filter]');
    fire(document.querySelector('[data-field=team]'), 'dragstart');
    fire(zone, 'dragover');
    expect(zone.classList.contains('over')).toBe(true);
    fire(zone, 'dragleave');
    expect(zone.classList.contains('over')).toBe(false);
    drag('team', 'filter');
    expect(changed.mock.calls).toEqual([['filter', 'team']]);
});
