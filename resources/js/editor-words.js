/**
 * What an editor offers, and how what is typed is matched; knows nothing of the page.
 */

/** The word before the cursor, with the names before its dots. */
export function begun(text) {
    return (text.match(/[\w$.]*$/) ?? [''])[0];
}

/** The names a table goes by in a statement: alias => schema.table. */
export function aliases(sql, tables) {
    const found = {};
    const short = shortNames(tables);
    const after = /\b(?:from|join|update|into)\s+([\w.]+)(?:\s+(?:as\s+)?(\w+))?/gi;
    for (const [, name, alias] of sql.matchAll(after)) {
        const table = tables[name] ? name : short[name.toLowerCase()];
        if (!table) continue;
        found[table.split('.').pop().toLowerCase()] = table;
        if (alias && !STOPS.has(alias.toLowerCase())) found[alias.toLowerCase()] = table;
    }
    return found;
}

const STOPS = new Set(['on', 'where', 'group', 'order', 'join', 'left', 'right', 'inner', 'cross', 'full', 'using', 'set', 'values',
    'limit', 'having', 'select', 'union', 'as', 'natural', 'except', 'intersect']);

function shortNames(tables) {
    const short = {};
    for (const name of Object.keys(tables)) short[name.split('.').pop().toLowerCase()] ??= name;
    return short;
}

/**
 * What could be meant by the word before the cursor: after a dot the columns of the table or the tables of the schema, else columns of
 * the tables the statement names first, then tables, functions, keywords.
 *
 * @returns {{from: number, options: {label: string, detail: string, type: string}[]}|null} from: characters before the cursor the
 *     choice takes the place of
 */
export function offers(words, statement, before, least = 2) {
    const typed = begun(before);
    const at = typed.lastIndexOf('.');
    const named = aliases(statement, words.tables);
    if (at !== -1) {
        const owner = typed.slice(0, at);
        const table = words.tables[owner] ? owner : named[owner.toLowerCase()];
        const options = table ? columns(words.tables[table])
            : Object.keys(words.tables).filter((name) => name.toLowerCase().startsWith(`${owner.toLowerCase()}.`))
                .map((name) => option(name.slice(owner.length + 1), words.tables[name].kind, 'table'));
        return options.length === 0 ? null : { from: typed.length - at - 1, options };
    }
    if (typed.length < least) return null;
    const own = [...new Set(Object.values(named))].flatMap((table) => columns(words.tables[table]));
    const all = [
        ...(own.length > 0 ? own : Object.values(words.tables).flatMap(columns)),
        ...Object.entries(words.tables).map(([name, { kind }]) => option(name, kind, 'table')),
        ...words.functions.map((name) => option(name, 'function', 'function')),
        ...words.keywords.map((name) => option(name, 'keyword', 'keyword')),
    ];
    const low = typed.toLowerCase();
    const seen = new Set();
    const options = all.filter(({ label }) => {
        const name = label.toLowerCase();
        const fits = (name.startsWith(low) || name.split('.').pop().startsWith(low)) && name !== low && !seen.has(name);
        if (fits) seen.add(name);
        return fits;
    });
    return options.length === 0 ? null : { from: typed.length, options };
}

const option = (label, detail, type) => ({ label, detail, type });
const columns = (table) => table.columns.map(([name, type]) => option(name, type, 'column'));

/** Conditions of policies know words with quotes and brackets. */
export function offersOf(list, before, least = 1) {
    const typed = (before.match(/[\w('/]*$/) ?? [''])[0];
    if (typed.length < least) return null;
    const options = list.filter((word) => word.startsWith(typed) && word !== typed).map((word) => option(word, '', 'keyword'));
    return options.length === 0 ? null : { from: typed.length, options };
}

/** Where a statement begins in a text that holds several; -1 where it is not there. */
export function placeOf(text, statement, near) {
    let best = -1;
    for (let at = text.indexOf(statement); at !== -1; at = text.indexOf(statement, at + 1)) {
        if (best === -1 || Math.abs(at - near) < Math.abs(best - near)) best = at;
    }
    return best;
}
