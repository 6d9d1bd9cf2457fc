<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Decide\Explainer;
use Fulcrion\Core\Access\Decide\Reason;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Policy\Privilege;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class DecisionTest extends TestCase
{
    private const MASK = [
        'rules' => [
            'mask' => [
                'scope' => 'estate',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ],
        ],
    ];

    private const HIDE = [
        'rules' => ['hide pay' => ['scope' => 'c.people', 'for' => ['role:crew'], 'when' => "labelled('pay')", 'effect' => 'hide']],
    ];

    private const SHOWN = "CASE WHEN char_length(phone) > 2 THEN concat('***', right(phone, 2)) ELSE '***' END AS phone";

    public function test_grants_are_inherited_downwards_deny_wins_and_days_and_exceptions_count(): void
    {
        $policy = SampleAccess::policy([
            'grants' => [
                'no wages' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'c.people.crew.wage', 'to' => ['role:crew']],
                'ended' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select'],
                    'on' => 'c',
                    'to' => ['person:bob'],
                    'until' => '2026-11-22',
                ],
                'today' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select'],
                    'on' => 'c.field',
                    'to' => ['person:bob'],
                    'until' => SampleAccess::DAY,
                ],
                'but' => ['effect' => 'allow', 'privileges' => ['drop'], 'on' => 'c', 'to' => ['role:crew'], 'except' => ['person:ann']],
            ],
        ]);
        $columns = $policy->reader('person:ann')->table($policy->catalog->tables['c.people.crew'])->columns;
        self::assertSame(Sight::Visible, $columns['name']->sight);
        self::assertSame(Sight::Denied, $columns['wage']->sight);
        self::assertSame('grant no wages denies it at c.people.crew.wage', (string) $columns['wage']->causes[0]);
        self::assertTrue($policy->reader('person:bob')->can(Privilege::Select, 'c.field.pick'));
        self::assertFalse($policy->reader('person:bob')->can(Privilege::Select, 'c.people.crew'));
        self::assertFalse($policy->reader('person:ann')->can(Privilege::Drop, 'c.field.pick'));
        self::assertTrue($policy->reader('role:crew')->can(Privilege::Drop, 'c.field.pick'));
        self::assertTrue($policy->reader('role:keeper')->can(Privilege::Alter, 'c.field.pick'), 'who owns the estate may do everything');
    }

    public function test_a_column_that_is_denied_refuses_a_star_and_a_hidden_one_is_left_out_of_it(): void
    {
        $hidden = SampleAccess::policy(self::HIDE);
        $decision = SampleAccess::ask($hidden, 'SELECT * FROM people.crew');
        self::assertSame('SELECT * FROM (SELECT id, name, phone, born FROM people.crew) AS crew', $decision->rewritten);
        self::assertSame(['* leaves out c.people.crew.wage: rule hide pay hides it.'], $decision->notes);
        self::assertSame(
            'c.people.crew.wage is hidden for ann: rule hide pay hides it.',
            SampleAccess::answer($hidden, 'SELECT name FROM people.crew WHERE wage > 10'),
        );
        $denied = SampleAccess::policy(['rules' => ['deny' => ['effect' => 'deny'] + self::HIDE['rules']['hide pay']]]);
        self::assertSame(
            'c.people.crew.wage is denied for ann: rule deny denies it.',
            SampleAccess::answer($denied, 'SELECT * FROM people.crew'),
        );
        self::assertSame('SELECT count(*) FROM people.crew', SampleAccess::answer($denied, 'SELECT count(*) FROM people.crew'));
    }

    public function test_conditions_see_masked_values_only_so_no_question_goes_around_a_mask(): void
    {
        $policy = SampleAccess::policy(self::MASK);
        foreach (
            [
                "SELECT id FROM people.crew WHERE phone = '555'" => 'SELECT id FROM (SELECT id, '.self::SHOWN.' FROM people.crew) AS '
                    ."crew WHERE phone = '555'",
                'SELECT a.id FROM people.crew AS a JOIN people.crew AS b ON a.phone = b.phone' => 'SELECT a.id FROM (SELECT id, '.
                    self::SHOWN.
                    ' FROM people.crew) AS a JOIN (SELECT '.
                    self::SHOWN.
                    ' FROM people.crew) AS b ON a.phone = b.phone',
                'SELECT max(phone) FROM people.crew' => 'SELECT max(phone) FROM (SELECT '.self::SHOWN.' FROM people.crew) AS crew',
                'WITH q AS (SELECT phone FROM people.crew) SELECT * FROM q' => 'WITH q AS (SELECT phone FROM '
                    .'(SELECT '.self::SHOWN.' FROM people.crew) AS crew) SELECT * FROM q',
                'SELECT bay FROM field.pick WHERE id IN (SELECT id FROM people.crew WHERE phone IS NULL)' => 'SELECT bay FROM '
                    .'field.pick WHERE id IN (SELECT id FROM (SELECT id, '.
                    self::SHOWN.
                    ' FROM people.crew) AS crew WHERE phone IS NULL)',
                'SELECT * FROM people.crew' => 'SELECT * FROM (SELECT id, name, '.self::SHOWN.', wage, born FROM people.crew) AS crew',
                'SELECT id, name FROM people.crew' => 'SELECT id, name FROM people.crew',
            ] as $sql => $rewritten
        ) {
            self::assertSame($rewritten, SampleAccess::answer($policy, $sql));
        }
        self::assertSame(
            'SELECT bay FROM field.pick',
            SampleAccess::answer($policy, 'SELECT bay FROM field.pick'),
            'what is wholly visible is run as it is written',
        );
        $strict = SampleAccess::policy(self::MASK + ['settings' => ['masked use' => ['value' => 'refuse']]]);
        self::assertStringContainsString(
            'may not be used in a condition',
            SampleAccess::answer($strict, "SELECT id FROM people.crew WHERE phone LIKE '1%'"),
        );
        self::assertStringContainsString(
            'may not be used to sort',
            SampleAccess::answer($strict, 'SELECT phone FROM people.crew ORDER BY phone'),
        );
        self::assertStringContainsString(
            'keyed_hash belongs to masks',
            SampleAccess::answer($policy, "SELECT keyed_hash('555-1234') FROM people.crew"),
        );
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function hiddenNames(): iterable
    {
        yield 'in a join' => ['SELECT a.id FROM people.crew AS a JOIN people.crew AS b USING (wage)', 'wage is hidden'];
        yield 'in a natural join' => ['SELECT id FROM people.crew NATURAL JOIN people.crew AS b', 'wage is hidden'];
        yield 'in a group' => ['SELECT count(*) FROM people.crew GROUP BY wage', 'wage is hidden'];
        yield 'in an order' => ['SELECT id FROM people.crew ORDER BY wage', 'wage is hidden'];
        yield 'in a window' => ['SELECT row_number() OVER (ORDER BY wage) FROM people.crew', 'wage is hidden'];
        yield 'in a correlated query' => [
            'SELECT bay FROM field.pick AS p WHERE EXISTS (SELECT 1 FROM people.crew AS c WHERE c.wage > p.kilos)',
            'wage is hidden',
        ];
        yield 'in a union' => ['SELECT kilos FROM field.pick UNION SELECT wage FROM people.crew', 'wage is hidden'];
        yield 'behind other names' => ['SELECT e FROM people.crew AS t (a, b, c, d, e)', 'wage is hidden'];
        yield 'through a view' => ['SELECT pay FROM people.list', 'pay is hidden for ann: it comes from c.people.crew.wage'];
    }

    #[DataProvider('hiddenNames')]
    public function test_a_hidden_column_cannot_be_named(string $sql, string $why): void
    {
        self::assertStringContainsString($why, SampleAccess::answer(SampleAccess::policy(self::HIDE), $sql));
    }

    public function test_a_view_reads_with_its_owners_grants_and_its_readers_rules(): void
    {
        $grants = [
            'grants' => [
                'all' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c.people.list', 'to' => ['role:crew']],
                'in' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c.people', 'to' => ['role:crew']],
            ],
        ];
        self::assertSame(
            'SELECT tel FROM people.list',
            SampleAccess::answer(SampleAccess::policy($grants), 'SELECT tel FROM people.list'),
            'without a right on the table below',
        );
        self::assertStringContainsString(
            'closed to ann',
            SampleAccess::answer(SampleAccess::policy($grants), 'SELECT phone FROM people.crew'),
        );
        self::assertStringContainsString(
            self::SHOWN,
            SampleAccess::answer(SampleAccess::policy($grants + self::MASK), 'SELECT tel FROM people.list'),
            'its reader\'s mask holds',
        );
        $star = SampleAccess::ask(SampleAccess::policy($grants + self::HIDE), 'SELECT * FROM people.list');
        self::assertStringContainsString('CAST(NULL AS double) AS pay', (string) $star->rewritten);
        self::assertStringStartsWith(
            'SELECT * FROM (SELECT id, called, tel FROM',
            (string) $star->rewritten,
            'the column that needs a hidden one is hidden too',
        );
        $poor = SampleAccess::policy(
            $grants + ['owners' => ['estate' => ['owner' => 'role:keeper'], 'c.people.list' => ['owner' => 'person:bob']]],
        );
        self::assertStringContainsString('which is closed to its owner, bob', SampleAccess::answer($poor, 'SELECT tel FROM people.list'));
    }

    public function test_filters_combine_with_and_and_take_attributes_of_the_person(): void
    {
        $policy = SampleAccess::policy([
            'rules' => [
                'own sites' => [
                    'scope' => 'c.field.pick',
                    'for' => ['everyone'],
                    'effect' => 'filter',
                    'filter' => "house IN (person('sites'))",
                ],
                'small' => [
                    'scope' => 'c.field.pick',
                    'for' => ['role:crew'],
                    'effect' => 'filter',
                    'filter' => "kilos < 100 AND person('region') = 'north'",
                ],
            ],
        ]);
        self::assertSame(
            "SELECT bay FROM (SELECT bay FROM field.pick WHERE house IN (1, 5) AND (kilos < 100 AND 'north' = 'north')) AS pick",
            SampleAccess::answer($policy, 'SELECT bay FROM field.pick'),
        );
    }

    public function test_of_two_masks_the_stricter_holds(): void
    {
        $rule = static fn (string $mask): array => ['mask' => $mask] + self::MASK['rules']['mask'];
        foreach (
            [['last4', 'last2', 'last2'], ['last2', 'gone', 'gone'], ['hash', 'last4', 'hash'], ['hash', 'gone', 'gone']] as [$one,
                $other, $stricter]
        ) {
            $policy = SampleAccess::policy(['rules' => ['a' => $rule($one), 'b' => $rule($other)]]);
            self::assertSame(
                $stricter,
                $policy->reader('person:ann')->table($policy->catalog->tables['c.people.crew'])->columns['phone']->mask?->name,
                "{$one} and {$other}",
            );
        }
    }

    public function test_a_rule_in_error_closes_what_it_is_about_and_says_so(): void
    {
        $policy = SampleAccess::policy([
            'rules' => [
                'odd' => ['scope' => 'c.people.crew', 'for' => ['role:crew'], 'when' => "label('personal/phone') > 3", 'effect' => 'hide'],
            ],
        ]);
        self::assertStringContainsString(
            'rule odd is in error: "direct" and "3" cannot be compared',
            SampleAccess::answer($policy, 'SELECT phone FROM people.crew'),
        );
        self::assertSame(
            'SELECT id FROM people.crew',
            SampleAccess::answer($policy, 'SELECT id FROM people.crew'),
            'columns without the label are not concerned',
        );
        $filter = SampleAccess::policy([
            'rules' => ['lost' => ['scope' => 'c.field', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'gone = 1']],
        ]);
        self::assertStringContainsString(
            'its filter names gone, which is no column of c.field.pick',
            SampleAccess::answer($filter, 'SELECT bay FROM field.pick'),
        );
    }

    public function test_who_lacks_an_attribute_does_not_see_more_for_it(): void
    {
        $rule = static fn (string $when): array => [
            'rules' => ['r' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'when' => $when, 'effect' => 'hide']],
            'grants' => ['too' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c', 'to' => ['person:bob']]],
        ];
        $hidden = static function (string $when) use ($rule): array {
            $policy = SampleAccess::policy($rule($when));

            return array_map(
                strval(...),
                array_keys(
                    array_filter(
                        $policy->reader('person:bob')->table($policy->catalog->tables['c.people.crew'])->columns,
                        static fn ($access): bool => $access->sight === Sight::Hidden,
                    ),
                ),
            );
        };
        // Bob has no attributes at all.
        self::assertSame(['wage'], $hidden("label('pay') <> person('pay')"), 'a column without the label is not concerned');
        self::assertSame(['wage'], $hidden("labelled('pay') AND person('clearance') < 3"));
        self::assertSame(['wage'], $hidden("labelled('pay') AND NOT person('clearance') >= 3"));
        self::assertSame(['phone', 'wage'], $hidden("(labelled('pay') AND person('team') IN ('a', 'b')) OR labelled_below('personal')"));
        self::assertSame([], $hidden("labelled('pay') AND person('clearance') IS NOT NULL"));
        self::assertSame(['wage'], $hidden("labelled('pay') AND person('clearance') IS NULL"));
        self::assertSame([], $hidden("label('nothing') = person('clearance')"));
    }

    public function test_changes_need_their_privilege_and_never_depend_on_masked_values(): void
    {
        $grants = [
            'grants' => [
                'write' => ['effect' => 'allow', 'privileges' => ['update', 'delete', 'insert'], 'on' => 'c.people', 'to' => ['role:crew']],
            ],
        ];
        self::assertStringContainsString(
            'No grant of delete on c.field.pick',
            SampleAccess::answer(SampleAccess::policy(), 'DELETE FROM field.pick WHERE bay = 1'),
        );
        self::assertStringContainsString(
            'cannot depend on c.people.crew.phone',
            SampleAccess::answer(SampleAccess::policy($grants + self::MASK), "DELETE FROM people.crew WHERE phone = '1'"),
        );
        $filter = ['rules' => ['few' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'id < 9']]];
        self::assertSame(
            "UPDATE people.crew SET name = 'x' WHERE id < 9 AND id = 3",
            SampleAccess::answer(SampleAccess::policy($grants + $filter), "UPDATE people.crew SET name = 'x' WHERE id = 3"),
        );
        self::assertStringContainsString(
            self::SHOWN,
            SampleAccess::answer(SampleAccess::policy($grants + self::MASK), 'INSERT INTO people.crew SELECT * FROM people.crew'),
        );
        foreach (
            [
                'GRANT SELECT ON people.crew TO ann',
                'DROP TABLE people.crew',
                'WITH RECURSIVE q AS (SELECT 1) SELECT * FROM q',
                'SELECT nothing FROM people.crew',
                'SELECT * FROM people.nowhere',
            ] as $sql
        ) {
            self::assertFalse(SampleAccess::ask(SampleAccess::policy(), $sql)->isAllowed(), $sql);
        }
    }

    public function test_reasons_name_every_grant_and_rule_with_the_nesting_it_is_held_by(): void
    {
        $policy = SampleAccess::policy(
            self::HIDE + [
                'roles' => ['crew' => ['includes' => ['inner']], 'inner' => ['includes' => ['deep']], 'deep' => []],
                'grants' => [
                    'deep one' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c.people.crew', 'to' => ['role:deep']],
                    'other' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'c', 'to' => ['person:bob']],
                ],
            ],
        );
        $text = self::flat(
            (new Explainer($policy, $policy->reader('person:ann')))->column($policy->catalog->tables['c.people.crew'], 'wage'),
        );
        self::assertStringContainsString(
            'Grant deep one allows select at c.people.crew, held as role crew > inner > deep, inherited from there',
            $text,
        );
        self::assertStringContainsString('Grant other allows select at c, but is for others', $text);
        self::assertStringContainsString("Rule hide pay at c.people, for role crew: labelled('pay') holds, so it hides", $text);
    }

    private static function flat(Reason $reason): string
    {
        return $reason->text."\n".implode('', array_map(self::flat(...), $reason->inner));
    }
}
