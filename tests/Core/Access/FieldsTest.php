<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\DocumentField;
use Fulcrion\Core\Access\Policy\DocumentSchema;
use Fulcrion\Core\Access\Policy\FieldType;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What a field of an item takes, what it becomes, and what is said of a value it does not take.
 */
final class FieldsTest extends TestCase
{
    private const MASK = ['shows' => 'last characters'];

    private const GRANT = ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.people', 'to' => ['everyone']];

    private const RULE = ['scope' => 'c', 'for' => ['everyone'], 'effect' => 'hide'];

    private const SCOPE = ['dimension' => 'd', 'for' => ['everyone'], 'level' => 'detail', 'mode' => 'trim'];

    /**
     * @return iterable<string, array{Kind, array<string, mixed>, string, mixed, string|null}> kind, other fields, field, value, trouble
     */
    public static function values(): iterable
    {
        yield 'a text' => [Kind::People, [], 'title', 'Ann', null];
        yield 'a number as text' => [Kind::People, [], 'title', 7, null];
        yield 'a list as text' => [Kind::People, [], 'title', ['Ann'], 'must be a text'];
        yield 'true as text' => [Kind::People, [], 'title', true, 'must be a text'];
        yield 'a choice' => [Kind::People, [], 'kind', 'service', null];
        yield 'no choice' => [Kind::People, [], 'kind', 'robot', 'has "robot", which is none of person, service'];
        yield 'a choice in other letters' => [Kind::People, [], 'kind', 'Service', 'has "Service", which is none of'];
        yield 'a list of names' => [Kind::People, [], 'roles', ['a', 'b'], null];
        yield 'a name where a list is meant' => [Kind::People, [], 'roles', 'a', 'must be a list'];
        yield 'a map where a list is meant' => [Kind::People, [], 'roles', ['x' => 'a'], 'must be a list'];
        yield 'a list in a list' => [Kind::People, [], 'roles', [['a']], 'must be a list of texts'];
        yield 'numbers in a list of texts' => [Kind::People, [], 'roles', [1, 2.5], null];
        yield 'truth in a list of texts' => [Kind::People, [], 'roles', [true], 'must be a list of texts'];
        yield 'a map' => [Kind::People, [], 'attributes', ['a' => 1, 'b' => true, 'c' => ['x', 2.5]], null];
        yield 'a map of maps' => [
            Kind::People,
            [],
            'attributes',
            ['a' => ['b' => ['c' => 1]]],
            'must give a a text, a number, true or false, or a list of those',
        ];
        yield 'a map of nothing' => [Kind::People, [], 'attributes', ['a' => null], 'must give a a text'];
        yield 'a text as map' => [Kind::People, [], 'attributes', 'a', 'must be a map of names to values'];
        yield 'a whole number' => [Kind::Masks, self::MASK, 'count', 0, null];
        yield 'below 0' => [Kind::Masks, self::MASK, 'count', -1, 'must be a whole number of 0 or more'];
        yield 'a number with a fraction' => [Kind::Masks, self::MASK, 'count', 1.5, 'must be a whole number of 0 or more'];
        yield 'digits in quotes' => [Kind::Masks, self::MASK, 'count', '3', 'must be a whole number of 0 or more'];
        yield 'a flag' => [Kind::Rules, self::RULE, 'off', true, null];
        yield 'a word as flag' => [Kind::Rules, self::RULE, 'off', 'yes', 'must be true or false'];
        yield 'everyone' => [Kind::Owners, [], 'owner', 'everyone', null];
        yield 'a role' => [Kind::Owners, [], 'owner', 'role:crew', null];
        yield 'a person' => [Kind::Owners, [], 'owner', 'person:ann', null];
        yield 'a name without kind' => [Kind::Owners, [], 'owner', 'ann', 'has "ann"; write everyone, role:NAME or person:NAME'];
        yield 'a role without name' => [Kind::Owners, [], 'owner', 'role:', 'has "role:"; write everyone'];
        yield 'another kind' => [Kind::Owners, [], 'owner', 'team:a', 'has "team:a"; write everyone'];
        yield 'an account is nobody in a policy' => [Kind::Owners, [], 'owner', 'account:a', 'has "account:a"; write everyone'];
        yield 'a needed field left empty' => [Kind::Owners, [], 'owner', '', 'is missing: a role or a person'];
        yield 'a needed field of blanks' => [Kind::Settings, [], 'value', '  ', 'must not be empty'];
        yield 'the estate' => [Kind::Grants, self::GRANT, 'on', 'estate', null];
        yield 'a column' => [Kind::Grants, self::GRANT, 'on', 'a.b.c.d', null];
        yield 'a part too many' => [Kind::Grants, self::GRANT, 'on', 'a.b.c.d.e', 'has "a.b.c.d.e"; write estate, or cluster.schema.table'];
        yield 'a part that is empty' => [Kind::Grants, self::GRANT, 'on', 'a..b', 'has "a..b"; write estate'];
        yield 'a dot in quotes' => [Kind::Grants, self::GRANT, 'on', 'a."b.c"', null];
        yield 'a day' => [Kind::Grants, self::GRANT, 'until', '2028-02-29', null];
        yield 'a day that is not there' => [Kind::Grants, self::GRANT, 'until', '2027-02-29', 'has "2027-02-29", which is no day; write'];
        yield 'a day in another order' => [Kind::Grants, self::GRANT, 'until', '29.02.2028', 'which is no day'];
        yield 'a day with a time' => [Kind::Grants, self::GRANT, 'until', '2028-02-29 10:00', 'which is no day'];
        yield 'a privilege' => [Kind::Grants, self::GRANT, 'privileges', ['manage access', 'label'], null];
        yield 'no privilege' => [Kind::Grants, self::GRANT, 'privileges', ['select', 'read'], 'has "read", which is none of use, select'];
        yield 'no privileges' => [Kind::Grants, self::GRANT, 'privileges', [], 'is missing: what is given'];
        yield 'a range' => [Kind::Scopes, self::SCOPE, 'ranges', ['1..5', '..3', 'a..'], null];
        yield 'a range without ends' => [Kind::Scopes, self::SCOPE, 'ranges', ['..'], 'has ".."; write a range as low..high'];
        yield 'a range with one dot' => [Kind::Scopes, self::SCOPE, 'ranges', ['1.5'], 'has "1.5"; write a range as low..high'];
    }

    /**
     * @param  array<string, mixed>  $others
     */
    #[DataProvider('values')]
    public function test_a_field_takes_values_of_its_type(Kind $kind, array $others, string $field, mixed $value, ?string $trouble): void
    {
        $item = Item::of($kind, $kind->isNamedByPath() ? 'c.people' : 'x', [$field => $value] + $others);
        if ($trouble === null) {
            self::assertInstanceOf(Item::class, $item, is_array($item) ? (string) $item[0] : '');
            self::assertArrayHasKey($field, $item->fields);

            return;
        }
        self::assertIsArray($item);
        self::assertCount(1, $item, 'one mistake is told once');
        self::assertSame([$kind, $field, true], [$item[0]->kind, $item[0]->field, $item[0]->grave]);
        self::assertStringContainsString($trouble, $item[0]->message);
        self::assertStringStartsWith(ucfirst($kind->one()).' "', (string) $item[0]);
        self::assertStringEndsWith('.', (string) $item[0]);
    }

    public function test_values_are_kept_in_one_way_of_writing(): void
    {
        $grant = self::item(Kind::Grants, ' g', [
            'to' => ['role:b', 'everyone', 'role:b'],
            'on' => 'C.People',
            'privileges' => ['select', 'use', 'select'],
            'effect' => 'allow',
            'reason' => '  because ',
            'until' => '',
            'except' => [],
        ]);
        self::assertSame(
            [
                'effect' => 'allow',
                'privileges' => ['select', 'use'],
                'on' => 'c.people',
                'to' => ['role:b', 'everyone'],
                'reason' => 'because',
            ],
            $grant->fields,
            'in the order of the kind, each once, without those that are empty',
        );
        $rule = self::item(Kind::Rules, 'r', self::RULE + ['off' => false]);
        self::assertArrayNotHasKey('off', $rule->fields, 'what is not said is not kept');
        self::assertSame(
            ['a' => 1, 'b' => 2],
            self::item(Kind::People, 'p', ['attributes' => ['b' => 2, 'a' => 1]])->map('attributes'),
        );
        self::assertSame('c.a', self::item(Kind::Owners, 'C."a"', ['owner' => 'role:x'])->name, 'items named by a path by the one way');
        self::assertSame('C."a"', self::item(Kind::Roles, 'C."a"', [])->name, 'and others as they are');
        self::assertSame(
            ['c.a' => 'y', 'c.b' => 'x'],
            self::item(Kind::Dimensions, 'd', ['columns' => ['C."b"' => 'x', 'c.A' => 'y']])->map('columns'),
        );
        self::assertSame(
            ['c.a', 'c.b'],
            self::item(Kind::Releases, 'c.t', ['from' => ['C.A', 'c."b"', 'c.a'], 'reason' => 'x'])->texts('from'),
        );
    }

    public function test_a_name_is_needed_and_not_too_long(): void
    {
        foreach (['' => false, '   ' => false, str_repeat('a', 190) => true, str_repeat('a', 191) => false, '0' => true] as $name => $is) {
            self::assertSame($is, Item::of(Kind::Roles, (string) $name, []) instanceof Item, (string) $name);
        }
        $item = Item::of(Kind::Roles, '', []);
        self::assertIsArray($item);
        self::assertSame('Role "" needs a name of at most 190 bytes.', (string) $item[0]);
    }

    public function test_all_mistakes_of_an_item_are_told_at_once(): void
    {
        $item = Item::of(Kind::Grants, '', ['effect' => 'x', 'odd' => 1, 'until' => 'soon']);
        self::assertIsArray($item);
        self::assertSame(
            ['odd', '', 'effect', 'privileges', 'on', 'to', 'until'],
            array_map(static fn (PolicyProblem $one): string => $one->field, $item),
        );
    }

    public function test_fields_are_asked_for_by_their_type(): void
    {
        $item = self::item(Kind::Masks, 'm', ['shows' => 'first characters', 'count' => 3]);
        self::assertSame([3, 0], [$item->count('count'), $item->count('shows')]);
        self::assertSame(['first characters', 'x', ''], [$item->text('shows'), $item->text('gone', 'x'), $item->text('count')]);
        self::assertSame([[], []], [$item->texts('shows'), $item->map('shows')]);
        self::assertFalse($item->flag('shows'));
        $grant = self::item(Kind::Grants, 'g', ['until' => '2026-11-23'] + self::GRANT);
        self::assertTrue($grant->holds('2026-11-23'), 'the last day counts');
        self::assertTrue($grant->holds('2026-11-22'));
        self::assertFalse($grant->holds('2026-11-24'));
        self::assertTrue(self::item(Kind::Grants, 'g', self::GRANT)->holds('9999-12-31'));
    }

    public function test_items_are_the_same_by_what_they_say(): void
    {
        $one = self::item(Kind::Grants, 'a', self::GRANT);
        $other = self::item(Kind::Grants, 'b', array_reverse(self::GRANT, true));
        self::assertTrue($one->same($other), 'whatever they are called, and in whatever order it was written');
        self::assertSame($one->digest(), $other->digest());
        $third = self::item(Kind::Grants, 'a', ['effect' => 'deny'] + self::GRANT);
        self::assertFalse($one->same($third));
        self::assertNotSame($one->digest(), $third->digest());
        self::assertFalse(self::item(Kind::Roles, 'a', [])->same(self::item(Kind::People, 'a', [])));
    }

    public function test_a_change_tells_fields_in_words(): void
    {
        $old = self::item(Kind::Rules, 'r', ['except' => ['role:a'], 'off' => true] + self::RULE);
        $new = self::item(Kind::Rules, 'r', ['except' => ['role:a', 'role:b'], 'effect' => 'deny'] + self::RULE);
        $change = new ItemChange(Kind::Rules, 'r', $old, $new);
        self::assertSame('changed', $change->verb());
        self::assertSame(
            ['except' => ['role:a', 'role:a, role:b'], 'effect' => ['hide', 'deny'], 'off' => ['yes', '']],
            $change->fields(),
        );
        self::assertSame('added', (new ItemChange(Kind::Rules, 'r', null, $new))->verb());
        self::assertSame('removed', (new ItemChange(Kind::Rules, 'r', $old, null))->verb());
        self::assertSame('a = 1, b = x, y, c = no', ItemChange::show(['a' => 1, 'b' => ['x', 'y'], 'c' => false]));
        self::assertSame(['', '2.5'], [ItemChange::show(null), ItemChange::show(2.5)]);
    }

    public function test_the_schema_names_every_section_field_and_choice(): void
    {
        $schema = json_encode(DocumentSchema::toArray());
        self::assertIsString($schema);
        foreach (Kind::cases() as $kind) {
            self::assertStringContainsString("\"{$kind->value}\"", $schema);
            self::assertNotSame('', $kind->describe());
            foreach ($kind->fields() as $field) {
                self::assertStringContainsString("\"{$field->name}\"", $schema, "{$kind->value} {$field->name}");
                self::assertEquals($field, $kind->field($field->name));
                foreach ($field->choices as $choice) {
                    self::assertStringContainsString((string) json_encode($choice), $schema);
                }
            }
            self::assertNull($kind->field('nothing of this name'));
        }
        self::assertSame([Kind::Owners, Kind::Releases], array_values(array_filter(Kind::cases(), static fn (Kind $kind): bool =>
            $kind->isNamedByPath())));
    }

    public function test_lists_are_lists(): void
    {
        $lists = [];
        foreach (FieldType::cases() as $type) {
            if ((new DocumentField('x', $type, ''))->isList()) {
                $lists[] = $type->value;
            }
        }
        self::assertSame(['choices', 'list', 'subjects', 'objects', 'names of items', 'ranges'], $lists);
    }

    public function test_privileges_are_bits_of_their_own(): void
    {
        $bits = array_map(static fn (Privilege $one): int => $one->bit(), Privilege::cases());
        self::assertSame(2 ** count($bits) - 1, array_sum($bits));
        foreach (Privilege::cases() as $one) {
            self::assertSame([$one->value], Privilege::names($one->bit()));
        }
        self::assertSame(['use', 'drop'], Privilege::names(Privilege::bits(['drop', 'fly', 'use', 'drop'])));
        self::assertSame(0, Privilege::bits([]));
    }

    public function test_subjects_are_split_and_shown(): void
    {
        self::assertSame(['person', 'a:b'], Subject::split('person:a:b'));
        self::assertSame(['everyone', ''], Subject::split('everyone'));
        self::assertSame(
            ['everyone', 'role crew', 'ann', 'x@y'],
            array_map(Subject::show(...), ['everyone', 'role:crew', 'person:ann', 'account:x@y']),
        );
        self::assertSame(['person:a', 'role:b', 'account:c'], [Subject::person('a'), Subject::role('b'), Subject::account('c')]);
    }

    public function test_a_path_comes_back_from_its_parts_whatever_is_in_the_names(): void
    {
        $names = ['a', 'b.c', 'd"e', '"', '.', 'ä ö', 'x y', "it's", '0'];
        foreach ($names as $one) {
            foreach ($names as $two) {
                $path = ObjectPath::of(['c', $one, $two]);
                self::assertSame(['c', $one, $two], ObjectPath::parts($path), $path);
                self::assertSame(ObjectPath::of(['c', $one]), ObjectPath::parent($path), $path);
                self::assertSame($path, ObjectPath::child(ObjectPath::of(['c', $one]), $two), $path);
                self::assertSame($path, ObjectPath::normal($path), $path);
                self::assertTrue(ObjectPath::isWritten($path), $path);
                self::assertSame('table', ObjectPath::level($path), $path);
                self::assertSame(['estate', 'c', ObjectPath::of(['c', $one]), $path], ObjectPath::line($path), $path);
                self::assertTrue(ObjectPath::within($path, ObjectPath::of(['c', $one])), $path);
            }
        }
        self::assertSame(['estate', 'cluster', 'schema', 'table', 'column', 'nothing'], array_map(
            ObjectPath::level(...),
            ['estate', 'a', 'a.b', 'a.b.c', 'a.b.c.d', 'a.b.c.d.e'],
        ));
        self::assertSame([null, 'estate', 'a'], array_map(ObjectPath::parent(...), ['estate', 'a', 'a.b']));
        self::assertSame('a', ObjectPath::child('estate', 'A'));
        foreach (['', '.', 'a.', '.a', 'a..b', ' a', '"', 'a"b', 'a.b.c.d.e'] as $wrong) {
            self::assertFalse(ObjectPath::isWritten($wrong), $wrong);
        }
    }

    /**
     * @return iterable<string, array{array<string, array<string, array<string, mixed>>>, list<string>}>
     */
    public static function documents(): iterable
    {
        yield 'nothing is wrong' => [[], []];
        yield 'use of masked values' => [['settings' => ['masked use' => ['value' => 'refuse']]], []];
        yield 'another use of masked values' => [
            ['settings' => ['masked use' => ['value' => 'perhaps']]],
            ['! Setting "masked use", field value, must be "masked value" or "refuse".'],
        ];
        foreach (['1' => true, '999999' => true, '0' => false, '1000000' => false, '2.5' => false, '-1' => false] as $size => $fits) {
            yield "groups of {$size}" => [
                ['settings' => ['smallest group' => ['value' => (string) $size]]],
                $fits
                    ? []
                    : [
                        '! Setting "smallest group", field value, must be a whole number from 1 to 999999: groups of fewer rows are left '
                            .'out of totals.',
                    ],
            ];
        }
        yield 'a mask by no mask' => [
            ['rules' => ['r' => ['effect' => 'mask'] + self::RULE]],
            ['! Rule "r", field mask, is missing: say which mask.'],
        ];
        yield 'a mask that is not there' => [
            ['rules' => ['r' => ['effect' => 'mask', 'mask' => 'gone2'] + self::RULE]],
            ['! Rule "r", field mask, names mask "gone2", which is not there; add it or take the name out.'],
        ];
        yield 'somebody who has left' => [
            ['rules' => ['r' => ['for' => ['person:left']] + self::RULE]],
            ['Rule "r", field for, names person "left", who is not in the policy; take the name out.'],
        ];
        yield 'a role that is gone' => [
            ['rules' => ['r' => ['for' => ['role:gone']] + self::RULE]],
            ['! Rule "r", field for, names role "gone", who is not in the policy; take the name out.'],
        ];
        yield 'a table that is gone' => [
            ['rules' => ['r' => ['scope' => 'c.gone'] + self::RULE]],
            [
                '! Rule "r", field scope, names c.gone, which is not in the catalog (dropped, renamed, or on a cluster that cannot be '
                    .'reached); it has no effect until it is there.',
            ],
        ];
        yield 'an owner of what is gone' => [
            ['owners' => ['c.gone' => ['owner' => 'role:crew']]],
            ['! Owner "c.gone" is not in the catalog; name an object that is there.'],
        ];
        yield 'a filter of one table by a column of another' => [
            ['rules' => ['r' => ['scope' => 'c.people', 'effect' => 'filter', 'filter' => 'bay = 1'] + self::RULE]],
            [
                '! Rule "r", field filter, names bay, which c.people.crew does not have (nor 1 more); such tables are closed to whom the '
                    .'rule is for. Narrow its scope or its condition.',
            ],
        ];
        yield 'such a filter under a condition' => [
            ['rules' => ['r' => [
                'scope' => 'c.people',
                'effect' => 'filter',
                'filter' => 'bay = 1',
                'when' => "table_labelled('x')",
            ] + self::RULE]],
            [],
        ];
        yield 'a filter that cannot be read' => [
            ['rules' => ['r' => ['effect' => 'filter', 'filter' => 'bay ='] + self::RULE]],
            ['! Rule "r", field filter, cannot be read: '],
        ];
        yield 'a column of a dimension that is none' => [
            ['dimensions' => ['d' => ['columns' => ['c.field.pick' => '']]]],
            [
                '! Dimension "d", field columns, names c.field.pick, which is no column of the catalog: its table, if there is one, is '
                    .'closed to whoever may not see all of the dimension.',
            ],
        ];
        yield 'branches without a tree' => [
            [
                'dimensions' => ['d' => ['columns' => ['c.field.pick.house' => '']]],
                'scopes' => ['s' => ['branches' => ['north']] + self::SCOPE],
            ],
            ['! Value scope "s", field branches, needs a dimension with a hierarchy.'],
        ];
        yield 'a label with another value' => [
            ['vocabulary' => ['pay' => ['description' => 'x', 'values' => ['open']]]],
            ['! Label "wage", field value, has the value "secret", which is not in the vocabulary of pay; allowed: open.'],
        ];
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     * @param  list<string>  $expected ! before what is grave
     */
    #[DataProvider('documents')]
    public function test_a_document_is_held_against_itself_and_the_catalog(array $sections, array $expected): void
    {
        $document = SampleAccess::document($sections);
        $told = array_map(
            static fn (PolicyProblem $one): string => ($one->grave ? '! ' : '').$one,
            (new DocumentCheck($document, SampleAccess::catalog()))->problems(),
        );
        self::assertCount(count($expected), $told, implode("\n", $told));
        foreach ($expected as $i => $words) {
            self::assertSame($words, substr($told[$i], 0, strlen($words)));
        }
    }

    public function test_a_document_comes_back_from_what_is_written(): void
    {
        $document = SampleAccess::document(['rules' => ['z' => self::RULE, 'a' => self::RULE]]);
        $written = $document->toArray();
        self::assertSame(['format', ...array_map(static fn (Kind $kind): string => $kind->value, array_filter(
            Kind::cases(),
            static fn (Kind $kind): bool => $document->all($kind) !== [],
        ))], array_keys($written));
        self::assertIsArray($written['rules']);
        self::assertSame(['a', 'z'], array_keys($written['rules']));
        $again = Document::read($written);
        self::assertInstanceOf(Document::class, $again);
        self::assertSame($written, $again->toArray());
        self::assertSame([], $document->changesTo($again));
        self::assertSame($document->size(), $again->size());
        self::assertSame($document->size() - 1, $document->without(Kind::Rules, 'a')->size());
        self::assertSame('x', $document->setting('masked use', 'x'));
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function item(Kind $kind, string $name, array $fields): Item
    {
        $item = Item::of($kind, $name, $fields);
        self::assertInstanceOf(Item::class, $item, is_array($item) ? (string) $item[0] : '');

        return $item;
    }
}
