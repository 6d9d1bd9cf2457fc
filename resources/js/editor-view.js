/** The editor itself; loaded by pages that have a field for it. */
import { acceptCompletion, autocompletion, completionKeymap, startCompletion } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { SQLDialect, sql } from '@codemirror/lang-sql';
import { bracketMatching, syntaxHighlighting } from '@codemirror/language';
import { Compartment, EditorState, StateEffect, StateField } from '@codemirror/state';
import { Decoration, EditorView, drawSelection, keymap, placeholder } from '@codemirror/view';
import { tagHighlighter, tags } from '@lezer/highlight';
import { offers, offersOf } from './editor-words.js';

const classes = tagHighlighter([
    { tag: tags.keyword, class: 'kw' },
    { tag: tags.operatorKeyword, class: 'kw' },
    { tag: tags.bool, class: 'kw' },
    { tag: tags.null, class: 'kw' },
    { tag: tags.typeName, class: 'kw' },
    { tag: tags.string, class: 'lit' },
    { tag: tags.number, class: 'lit' },
    { tag: tags.comment, class: 'com' },
]);
const NOTHING = { tables: {}, functions: [], keywords: [] };

const mistakeAt = StateEffect.define();
const mistakes = StateField.define({
    create: () => Decoration.none,
    update(marks, transaction) {
        for (const effect of transaction.effects) {
            if (!effect.is(mistakeAt)) continue;
            return effect.value === null ? Decoration.none
                : Decoration.set([Decoration.mark({ class: 'mistake' }).range(effect.value.from, effect.value.to)]);
        }
        return transaction.docChanged ? Decoration.none : marks;
    },
    provide: (field) => EditorView.decorations.from(field),
});

export function mount(area, root) {
    const label = area.labels[0];
    const dialect = new Compartment();
    const own = area.dataset.words ? JSON.parse(area.dataset.words) : null;
    let words = NOTHING;
    let asked = null;
    const ask = () => {
        const cluster = area.form?.elements.cluster?.value ?? '';
        if (!area.dataset.wordsAt || cluster === '' || asked === cluster) return Promise.resolve();
        asked = cluster;
        return fetch(`${area.dataset.wordsAt}?cluster=${encodeURIComponent(cluster)}`, { headers: { Accept: 'application/json' } })
            .then((answer) => (answer.ok ? answer.json() : NOTHING))
            .then((found) => { words = found; view.dispatch({ effects: dialect.reconfigure(language(words)) }); })
            .catch(() => { asked = null; });
    };
    const source = async (context) => {
        const before = context.state.doc.sliceString(0, context.pos);
        await ask();
        const found = own ? offersOf(own, before, context.explicit ? 0 : 1)
            : offers(words, context.state.doc.toString(), before, context.explicit ? 0 : 2);
        return found === null ? null : { from: context.pos - found.from, options: found.options, filter: true };
    };
    const view = new EditorView({
        parent: area.parentElement,
        state: EditorState.create({
            doc: area.value,
            extensions: [
                EditorView.cspNonce.of(area.dataset.nonce),
                history(),
                drawSelection(),
                bracketMatching(),
                EditorView.lineWrapping,
                placeholder(area.placeholder),
                syntaxHighlighting(classes),
                dialect.of(area.dataset.editor === 'sql' ? language(NOTHING) : []),
                autocompletion({ override: [source], icons: false, activateOnTypingDelay: 60 }),
                mistakes,
                keymap.of([
                    ...(root?.keys ?? []),
                    { key: 'Ctrl-Space', run: startCompletion },
                    { key: 'Tab', run: acceptCompletion },
                    ...completionKeymap, ...historyKeymap, ...defaultKeymap,
                ]),
                EditorView.contentAttributes.of({
                    'aria-label': label?.textContent.trim() ?? 'SQL',
                    'aria-multiline': 'true',
                    role: 'textbox',
                    spellcheck: 'false',
                    ...(area.getAttribute('aria-describedby') ? { 'aria-describedby': area.getAttribute('aria-describedby') } : {}),
                }),
                EditorView.updateListener.of((update) => {
                    if (!update.docChanged) return;
                    area.value = update.state.doc.toString();
                    area.dispatchEvent(new Event('input', { bubbles: true }));
                }),
                EditorView.theme({ '&': { minHeight: `${1.5 * Number(area.rows) + 1}em` } }),
            ],
        }),
    });
    area.hidden = true;
    label?.addEventListener('click', (event) => { event.preventDefault(); view.focus(); });
    view.contentDOM.addEventListener('focus', ask, { once: true });
    area.form?.elements.cluster?.addEventListener?.('change', ask);
    area.editor = {
        focus: () => view.focus(),
        cursor: () => view.state.selection.main.head,
        insert(text) {
            view.dispatch(view.state.replaceSelection(text));
            view.focus();
        },
        /** Underlines where a mistake is, up to the end of its word. */
        mark(at) {
            if (at === null) return view.dispatch({ effects: mistakeAt.of(null) });
            const from = Math.min(at, Math.max(0, view.state.doc.length - 1));
            const [word] = view.state.doc.sliceString(from).match(/^\w+/) ?? [''];
            const to = Math.min(view.state.doc.length, from + Math.max(1, word.length));
            if (to > from) view.dispatch({ effects: [mistakeAt.of({ from, to }), EditorView.scrollIntoView(from)] });
        },
    };
    return area.editor;
}

function language(words) {
    return sql({ dialect: SQLDialect.define({
        keywords: words.keywords.join(' ').toLowerCase(),
        builtin: words.functions.join(' ').toLowerCase(),
        doubleQuotedStrings: false,
    }) });
}
