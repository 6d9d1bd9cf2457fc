<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\ItemChange;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Access\Policy\Vocabulary;
use Fulcrion\Core\Access\Review\Detector;
use Fulcrion\Core\Access\Review\Review;
use Fulcrion\Core\Access\Review\Usage;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class DocumentTest extends TestCase
{
    public function test_bad_items_are_named_with_their_field_and_what_to_do(): void
    {
        $problems = Document::read([
            'format' => 'x',
            'nonsense' => [],
            'grants' => [
                'a' => [
                    'effect' => 'perhaps',
                    'privileges' => ['fly'],
                    'on' => 'a..b',
                    'to' => ['ann'],
                    'until' => '2026-02-30',
                    'why' => 1,
                ],
            ],
            'people' => ['b' => ['attributes' => 'x']],
            'scopes' => ['s' => ['dimension' => 'd', 'for' => ['everyone'], 'level' => 'detail', 'mode' => 'trim', 'ranges' => ['3-4']]],
        ]);
        self::assertIsArray($problems);
        $text = implode("\n", array_map(strval(...), $problems));
        foreach (
            [
                'must be fulcrion-policy/1',
                'is no section of a policy',
                'Grant "a", field effect, has "perhaps", which is none of allow, deny.',
                'field privileges, has "fly"',
                'field on, has "a..b"',
                'field to, has "ann"; write everyone, role:NAME or person:NAME',
                'field until, has "2026-02-30", which is no day',
                'field why, is no field of a grant',
                'field attributes, must be a map',
                'field ranges, has "3-4"; write a range as low..high',
            ] as $words
        ) {
            self::assertStringContainsString($words, $text);
        }
    }

    public function test_changes_between_two_policies_are_told_by_item_and_field(): void
    {
        $a = SampleAccess::document();
        $b = $a
            ->without(Kind::People, 'bob')
            ->with(
                self::item(Kind::Grants, 'all', ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c', 'to' => ['role:crew']]),
                self::item(Kind::Roles, 'new', []),
            );
        $changes = $a->changesTo($b);
        self::assertSame(
            ['removed person bob', 'added role new', 'changed grant all'],
            array_map(static fn (ItemChange $one): string => "{$one->verb()} {$one->kind->one()} {$one->name}", $changes),
        );
        self::assertSame(['privileges' => ['use, select', 'use']], $changes[2]->fields());
        self::assertSame([], $a->changesTo($a->with(self::item(Kind::People, 'bob', []))));
    }

    public function test_roles_may_be_nested_thousands_deep_and_a_circle_is_told_with_its_path(): void
    {
        $roles = [];
        for ($i = 0; $i < 5000; $i++) {
            $roles["r{$i}"] = $i < 4999 ? ['includes' => ['r'.($i + 1)]] : [];
        }
        $policy = SampleAccess::policy([
            'people' => ['deep' => ['roles' => ['r0']]],
            'roles' => $roles,
            'grants' => ['last' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c', 'to' => ['role:r4999']]],
        ]);
        self::assertTrue(SampleAccess::ask($policy, 'SELECT bay FROM field.pick', 'person:deep')->isAllowed());
        self::assertCount(5000, RoleClosure::path($policy->reader('person:deep')->roles, 'r4999'));
        self::assertSame([], RoleClosure::circle($policy->document->all(Kind::Roles)));
        $circle = SampleAccess::document([
            'roles' => ['a' => ['includes' => ['b']], 'b' => ['includes' => ['c']], 'c' => ['includes' => ['b']]],
        ]);
        self::assertSame(['b', 'c', 'b'], RoleClosure::circle($circle->all(Kind::Roles)));
        $problems = (new DocumentCheck($circle, SampleAccess::catalog()))->problems();
        self::assertContains(
            'Role "b", field includes, leads back to itself: b > c > b; take one of these out.',
            array_map(strval(...), $problems),
        );
    }

    public function test_what_leads_nowhere_is_told_and_grave_only_where_it_is_new(): void
    {
        $document = SampleAccess::document([
            'grants' => [
                'lost' => [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'c.people.crew.dropped',
                    'to' => ['role:gone', 'person:left'],
                ],
            ],
            'rules' => [
                'odd' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => 'phone = 1', 'effect' => 'mask', 'mask' => 'none'],
                'wide' => ['scope' => 'c', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'bay = 1'],
            ],
        ]);
        $grave = static fn (?Document $before): array => array_map(
            static fn (PolicyProblem $one): string => ($one->grave ? '! ' : '')."{$one->name}: {$one->field}",
            (new DocumentCheck($document, SampleAccess::catalog(), $before))->problems(),
        );
        self::assertSame(['! lost: on', '! lost: to', 'lost: to', '! odd: mask', '! odd: when', '! wide: filter'], $grave(null));
        self::assertSame(
            ['lost: on', 'lost: to', 'lost: to', 'odd: mask', '! odd: when', 'wide: filter'],
            $grave($document),
            'what was so before does not keep other edits back, except what cannot be read',
        );
    }

    public function test_a_label_key_gets_another_name_everywhere(): void
    {
        $document = SampleAccess::document([
            'vocabulary' => ['pay' => ['description' => 'what somebody earns', 'values' => ['secret']]],
            'rules' => [
                'r' => [
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'when' => "label('pay') = 'pay' OR labelled('paying')",
                    'effect' => 'hide',
                ],
            ],
        ]);
        $renamed = Vocabulary::rename($document, 'pay', 'wages');
        self::assertSame(['wages'], array_keys($renamed->all(Kind::Vocabulary)));
        self::assertSame('c.people.crew.wage wages', array_key_last($renamed->all(Kind::Labels)));
        self::assertStringContainsString("label('wages')", (string) $renamed->find(Kind::Rules, 'r')?->text('when'));
        self::assertStringContainsString("labelled('paying')", (string) $renamed->find(Kind::Rules, 'r')?->text('when'));
        self::assertSame([], Vocabulary::uses($renamed, 'pay'));
    }

    public function test_paths_keep_names_apart(): void
    {
        self::assertSame(['a', 'b.c', 'd"e'], ObjectPath::parts(ObjectPath::of(['a', 'b.c', 'd"e'])));
        self::assertSame('a."b.c"', ObjectPath::parent(ObjectPath::of(['a', 'b.c', 'd"e'])));
        self::assertFalse(ObjectPath::within('people.crewmates', 'people.crew'));
        self::assertSame(['estate', 'a', 'a.b'], ObjectPath::line('a.b'));
    }

    /**
     * @return iterable<string, array{string, list<string|null>, string, string|null}>
     */
    public static function columns(): iterable
    {
        yield 'e-mail' => [
            'contact',
            ['a@b.example', 'c.d@e.example', null, 'f@g.example', 'h@i.example', 'j@k.example'],
            'text',
            'e-mail',
        ];
        yield 'phone' => ['reach', ['555-0104417', '+44 20 7946 0958', '(020) 7946 0001', '555-0104418', '555-0104419'], 'text', 'phone'];
        yield 'no phone: days' => ['reach', ['2026-01-02', '2026-01-03', '2026-01-04', '2026-01-05', '2026-01-06'], 'text', null];
        yield 'account, by its check digits' => [
            'code',
            [
                'GB82 WEST 1234 5698 7654 32',
                'DE89370400440532013000',
                'GB82WEST12345698765432',
                'DE89 3704 0044 0532 0130 00',
                '4539578763621486',
            ],
            'text',
            'bank account',
        ];
        yield 'no account: check digits wrong' => [
            'code',
            ['GB83WEST12345698765432', 'DE80370400440532013000', '4539578763621487', '1234567812345678', '1111222233334445'],
            'text',
            null,
        ];
        yield 'digits are an identity by their name only' => [
            'national_id',
            ['123456789', '987654321', '112233445', '998877665', '556677889'],
            'text',
            'national id',
        ];
        yield 'other digits are none' => ['batch', ['123456789', '987654321', '112233445', '998877665', '556677889'], 'text', null];
        yield 'names of people' => ['name', ['Ada Brook', 'Finn Holm', 'Gwen Carden', 'Ines Elder', 'Jory Greave'], 'text', 'name'];
        yield 'names of things' => ['name', ['Bay 12-1', 'Long Red 3', 'Mint Field', 'Ember 1', 'Glasshouse 02'], 'text', null];
        yield 'born' => ['born', ['1980-02-03', '1991-12-24', '2001-07-15', '1975-01-01', '1969-09-09'], 'date', 'birth date'];
        yield 'too few to tell' => ['email', ['a@b.example'], 'text', null];
    }

    /**
     * @param  list<string|null>  $values
     */
    #[DataProvider('columns')]
    public function test_columns_tell_what_they_hold(string $name, array $values, string $type, ?string $kind): void
    {
        $found = Detector::look($name, $values, $type, '2026-11-23');
        self::assertSame($kind, $found?->kind);
        foreach ($found->examples ?? [] as $example) {
            self::assertNotContains($example, $values, 'examples are made unreadable');
        }
    }

    public function test_a_review_finds_what_nobody_needs_and_leaves_the_rest_alone(): void
    {
        $people = [];
        foreach (range(1, 8) as $i) {
            $people["p{$i}"] = ['roles' => ['crew'], 'attributes' => ['team' => 'crew']];
        }
        $policy = SampleAccess::policy([
            'people' => $people + ['lone' => ['kind' => 'person'], 'robot' => ['kind' => 'service', 'roles' => ['crew']]],
            'grants' => [
                'unused' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.people', 'to' => ['role:crew']],
                'direct' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.field', 'to' => ['person:p1', 'person:robot']],
                'idle' => ['effect' => 'deny', 'privileges' => ['drop'], 'on' => 'c', 'to' => ['role:crew']],
                'soon' => [
                    'effect' => 'allow',
                    'privileges' => ['insert'],
                    'on' => 'c.field',
                    'to' => ['role:crew'],
                    'until' => '2026-11-30',
                ],
                'all' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c', 'to' => ['role:crew']],
            ],
            'rules' => [
                'nobody' => ['scope' => 'estate', 'for' => ['role:keeper'], 'effect' => 'hide', 'when' => "labelled_below('personal')"],
                'nothing' => ['scope' => 'c.field', 'for' => ['everyone'], 'effect' => 'hide', 'when' => "labelled('personal')"],
            ],
        ]);
        $found = [];
        foreach ((new Review($policy, [new Usage('person:robot', 'c.field.pick', 9, '2026-11-20')], 28))->remarks() as $remark) {
            $found[$remark->check][] = $remark->object;
        }
        ksort($found);
        self::assertSame(
            [
                'direct-grant' => ['direct p1'],
                'ending-grant' => ['grant soon'],
                'idle-deny' => ['idle'],
                'idle-rule' => ['nobody', 'nothing'],
                'no-team' => ['lone', 'bob'],
                'unused-grant' => ['unused'],
                'wide-personal' => ['c.people.crew.phone'],
            ],
            $found,
        );
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function item(Kind $kind, string $name, array $fields): Item
    {
        $item = Item::of($kind, $name, $fields);
        self::assertInstanceOf(Item::class, $item);

        return $item;
    }
}
