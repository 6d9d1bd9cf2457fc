import { describe, expect, it, test } from 'vitest';
import { aliases, begun, offers, offersOf, placeOf } from '../../resources/js/editor-words.js';

const words = {
    tables: {
        'field.harvest_pick': { kind: 'table', columns: [['picked_at', 'timestamp'], ['grade', 'text'], ['bay_id', 'bigint']] },
        'field.bay_yield': { kind: 'view', columns: [['bay_id', 'bigint'], ['kilos', 'decimal(8, 2)']] },
        'ref.bay': { kind: 'table', columns: [['bay_id', 'bigint'], ['name', 'text']] },
    },
    functions: ['count', 'grading'],
    keywords: ['SELECT', 'GROUP', 'FROM'],
};
const labels = (found) => found?.options.map(({ label }) => label) ?? null;
const at = (text, least) => {
    const cursor = text.indexOf('|');
    return offers(words, text.replace('|', ''), text.slice(0, cursor), least);
};

test('the word before the cursor is taken with the names before its dots', () => {
    expect([begun('SELECT a.b'), begun('SELECT a. '), begun(''), begun('x=$y')]).toEqual(['a.b', '', '', '$y']);
});

describe('the names of tables in a statement', () => {
    it.each([
        ['SELECT 1 FROM harvest_pick h', { harvest_pick: 'field.harvest_pick', h: 'field.harvest_pick' }],
        ['select 1 from field.harvest_pick AS p join ref.bay b on p.bay_id = b.bay_id',
            { harvest_pick: 'field.harvest_pick', p: 'field.harvest_pick', bay: 'ref.bay', b: 'ref.bay' }],
        ['UPDATE ref.bay SET name = 1', { bay: 'ref.bay' }],
        ['SELECT 1 FROM bay WHERE 1 = 1', { bay: 'ref.bay' }],
        ['INSERT INTO bay_yield VALUES (1)', { bay_yield: 'field.bay_yield' }],
        ['SELECT 1 FROM elsewhere e', {}],
        ['', {}],
    ])('%s', (sql, named) => expect(aliases(sql, words.tables)).toEqual(named));
});

describe('what is offered', () => {
    it('after a dot, the columns of the table that goes by the name', () => {
        expect(labels(at('SELECT p.| FROM field.harvest_pick p'))).toEqual(['picked_at', 'grade', 'bay_id']);
        expect(labels(at('SELECT B.na| FROM ref.bay b'))).toEqual(['bay_id', 'name']);
        expect(labels(at('SELECT ref.bay.|'))).toEqual(['bay_id', 'name']);
        expect(at('SELECT p.gra| FROM field.harvest_pick p').from).toBe(3);
    });
    it('after a dot, the tables of the schema, which take the place of what stands behind the dot', () => {
        expect(labels(at('SELECT 1 FROM field.|'))).toEqual(['harvest_pick', 'bay_yield']);
        expect(at('SELECT 1 FROM field.har|').from).toBe(3);
    });
    it('nothing after a dot behind a name nobody knows', () => expect(at('SELECT q.|')).toBeNull());
    it('columns of the tables of the statement before functions and words, each once', () => {
        expect(labels(at('SELECT gr| FROM harvest_pick'))).toEqual(['grade', 'grading', 'GROUP']);
        expect(labels(at('SELECT ba| FROM bay b JOIN bay_yield y'))).toEqual(['bay_id', 'field.bay_yield', 'ref.bay']);
    });
    it('a table by its own name and by its schema', () => {
        expect(labels(at('SELECT 1 FROM harv|'))).toEqual(['field.harvest_pick']);
        expect(labels(at('SELECT 1 FROM fie|'))).toEqual(['field.harvest_pick', 'field.bay_yield']);
    });
    it('columns of every table where none is named yet', () => expect(labels(at('SELECT kil|'))).toEqual(['kilos']));
    it('nothing before two letters, unless asked for', () => {
        expect(at('SELECT g|')).toBeNull();
        expect(labels(at('SELECT g|', 0))).toEqual(['grade', 'grading', 'GROUP']);
    });
    it('not what already stands there', () => expect(labels(at('SELECT grade| FROM harvest_pick'))).toBeNull());
});

test('conditions are completed with their brackets and quotes', () => {
    const list = ["labelled('personal')", "labelled_below('personal')", "person('team')"];
    expect(labels(offersOf(list, 'NOT labelled_'))).toEqual(["labelled_below('personal')"]);
    expect(offersOf(list, "NOT labelled('per").from).toBe(13);
    expect(offersOf(list, '')).toBeNull();
    expect(labels(offersOf(list, '', 0))).toEqual(list);
    expect(offersOf(list, "person('team')")).toBeNull();
});

test('a statement is found where it was run', () => {
    const text = 'SELECT 1; SELECT 2; SELECT 1';
    expect(placeOf(text, 'SELECT 1', 0)).toBe(0);
    expect(placeOf(text, 'SELECT 1', 27)).toBe(20);
    expect(placeOf(text, 'SELECT 2', 27)).toBe(10);
    expect(placeOf(text, 'SELECT 3', 0)).toBe(-1);
});
