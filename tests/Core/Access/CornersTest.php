<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Small steps of deciding, each of which would open or close something if it were left out.
 */
final class CornersTest extends TestCase
{
    private const MASKED = [
        'rules' => [
            'phones' => [
                'scope' => 'c.people.crew',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ],
        ],
    ];

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     */
    private static function policy(array $sections, TableEntry ...$more): Policy
    {
        $catalog = new AccessCatalog(array_values([...SampleAccess::catalog()->tables, ...array_column($more, null, 'path')]));

        return new Policy(
            SampleAccess::document($sections),
            $catalog,
            ['tree' => new Hierarchy(SampleAccess::tree(), SampleAccess::DAY)],
            SampleAccess::DAY,
        );
    }

    /**
     * @param  array<string, TypeKind>  $columns
     */
    private static function table(string $path, array $columns, ?string $view, ColumnOrigin ...$origins): TableEntry
    {
        return new TableEntry($path, array_map(ColumnType::of(...), $columns), $view, array_values($origins));
    }

    /**
     * @return array<string, mixed>
     */
    private static function grant(string $on, string $effect = 'allow', string ...$privileges): array
    {
        $named = $privileges === [] ? ['select'] : array_values($privileges);

        return ['effect' => $effect, 'privileges' => $named, 'on' => $on, 'to' => ['role:crew']];
    }

    public function test_a_view_on_a_derived_table_needs_the_rights_of_its_owner_and_not_those_of_its_reader(): void
    {
        $flows = ['id' => ['id' => true], 'tel' => ['phone' => true]];
        $columns = ['id' => TypeKind::Bigint, 'tel' => TypeKind::Text];
        $book = self::table('c.field.book', $columns, null, new ColumnOrigin('c.people.crew', $flows));
        $view = self::table('c.field.seen', $columns, 'CREATE VIEW field.seen (id, tel) AS SELECT id, tel FROM field.book');
        $denied = ['grants' => ['not' => self::grant('c.people.crew', 'deny')]];
        self::assertSame(
            'SELECT id, tel FROM field.seen',
            SampleAccess::answer(self::policy($denied, $book, $view), 'SELECT id, tel FROM field.seen'),
        );
        self::assertStringContainsString(
            'is closed to ann',
            SampleAccess::answer(self::policy($denied, $book, $view), 'SELECT id FROM field.book'),
        );
        self::assertStringContainsString(
            "'***'",
            SampleAccess::answer(self::policy($denied + self::MASKED, $book, $view), 'SELECT tel FROM field.seen'),
        );
    }

    public function test_a_table_that_only_counts_rows_needs_a_grant_on_one_of_the_two(): void
    {
        $count = self::table('c.field.heads', ['n' => TypeKind::Bigint], null, new ColumnOrigin('c.people.crew', []));
        $in = static fn (string ...$schemas): array => array_map(
            static fn (string $on): array => self::grant($on, 'allow', 'use'),
            array_combine($schemas, $schemas),
        );
        $ask = static fn (array $grants): string => SampleAccess::answer(
            self::policy(['grants' => ['all' => self::grant('c.field', 'allow', 'use', 'select')] + $grants], $count),
            'SELECT n FROM field.heads',
        );
        self::assertStringContainsString('there is no use of c.people', $ask([]));
        self::assertStringContainsString(
            'no grant of select on c.people.crew',
            $ask($in('c.people')),
            'to look into the schema is not to read the table',
        );
        self::assertSame('SELECT n FROM field.heads', $ask($in('c.people') + ['crew' => self::grant('c.people.crew')]));
        self::assertSame('SELECT n FROM field.heads', $ask(['heads' => self::grant('c.field.heads')]), 'a grant on the table itself');
        self::assertStringContainsString(
            'grant no denies it at c.people.crew',
            $ask(['heads' => self::grant('c.field.heads'), 'no' => self::grant('c.people.crew', 'deny')]),
        );
    }

    public function test_a_column_set_from_another_is_masked_with_it_and_shows_nothing_where_it_was_worked_out(): void
    {
        $crew = SampleAccess::catalog()->tables['c.people.crew'];
        $changed = static fn (bool $isCopy): TableEntry => new TableEntry($crew->path, $crew->columns, null, [
            new ColumnOrigin($crew->path, ['name' => ['phone' => $isCopy]]),
        ]);
        self::assertStringContainsString(
            'right(name, 2)',
            SampleAccess::answer(self::policy(self::MASKED, $changed(true)), 'SELECT name FROM people.crew'),
        );
        $worked = SampleAccess::answer(self::policy(self::MASKED, $changed(false)), 'SELECT name FROM people.crew');
        self::assertStringContainsString("'***' AS name", $worked);
        self::assertStringNotContainsString('right(', $worked);
        $hidden = ['rules' => ['phones' => ['effect' => 'hide'] + self::MASKED['rules']['phones']]];
        self::assertStringContainsString(
            'crew.name is hidden for ann',
            SampleAccess::answer(self::policy($hidden, $changed(false)), 'SELECT name FROM people.crew'),
        );
        self::assertSame(
            'SELECT id FROM people.crew',
            SampleAccess::answer(self::policy($hidden, $changed(true)), 'SELECT id FROM people.crew'),
        );
        $way = new TableEntry($crew->path, $crew->columns, null, [
            new ColumnOrigin($crew->path, ['name' => ['wage' => false], 'wage' => ['phone' => true]]),
        ]);
        self::assertStringContainsString(
            'crew.name is hidden for ann',
            SampleAccess::answer(self::policy($hidden, $way), 'SELECT name FROM people.crew'),
            'by way of another column',
        );
    }

    public function test_views_may_lie_sixteen_deep_and_must_be_views(): void
    {
        $tower = static function (int $views): Policy {
            $tables = [];
            for ($i = 1; $i <= $views; $i++) {
                $below = $i === 1 ? 'people.crew' : 'field.v'.($i - 1);
                $tables[] = self::table(
                    "c.field.v{$i}",
                    ['id' => TypeKind::Bigint],
                    "CREATE VIEW field.v{$i} (id) AS SELECT id FROM {$below}",
                );
            }

            return self::policy([], ...$tables);
        };
        self::assertSame('SELECT id FROM field.v16', SampleAccess::answer($tower(16), 'SELECT id FROM field.v16'));
        self::assertStringContainsString('leads back to itself', SampleAccess::answer($tower(17), 'SELECT id FROM field.v17'));
        $ask = static fn (string $text): string => SampleAccess::answer(
            self::policy([], self::table('c.field.odd', ['id' => TypeKind::Bigint], $text)),
            'SELECT id FROM field.odd',
        );
        self::assertStringContainsString('The text of the view c.field.odd is no CREATE VIEW.', $ask('SELECT id FROM people.crew'));
        self::assertStringContainsString('The text of the view c.field.odd cannot be read', $ask('CREATE VIEW field.odd AS SELEC'));
        self::assertStringContainsString(
            'gives other columns than the catalog says',
            $ask('CREATE VIEW field.odd AS SELECT id, name FROM people.crew'),
        );
    }

    public function test_a_refused_statement_shows_nothing_masked(): void
    {
        $rules = self::MASKED['rules'] + [
            'pay' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'],
        ];
        $decision = SampleAccess::ask(SampleAccess::policy(['rules' => $rules]), 'SELECT phone, wage FROM people.crew');
        self::assertSame('refused', $decision->outcome());
        self::assertFalse($decision->isMasked());
        self::assertFalse($decision->isTrimmed());
    }

    public function test_a_filter_that_does_not_apply_leaves_those_after_it(): void
    {
        $rule = static fn (string $filter, string $when = ''): array => [
            'scope' => 'c.people.crew',
            'for' => ['everyone'],
            'effect' => 'filter',
            'filter' => $filter,
        ] + ($when === '' ? [] : ['when' => $when]);
        $policy = SampleAccess::policy([
            'rules' => ['first' => $rule('id < 3', "labelled('nobody/has')"), 'second' => $rule('id < 9'), 'third' => $rule('id > 1')],
        ]);
        self::assertSame(
            'SELECT name FROM (SELECT name FROM people.crew WHERE id < 9 AND id > 1) AS crew',
            SampleAccess::answer($policy, 'SELECT name FROM people.crew'),
        );
    }

    /**
     * @return iterable<string, array{string, string}> condition; what is said, or '' where it is run
     */
    public static function conditions(): iterable
    {
        $unknown = 'depends on values that are not known';
        $all = 'This asks for all values';
        foreach (
            [
                'house = 5' => '',
                '5 = house' => '',
                'house IN (1, 5)' => '',
                'house = 1 OR house = 5' => '',
                'house BETWEEN 1 AND 1' => '',
                'house = 5 AND bay = 2' => '',
                'bay = 2 AND house = 5' => '',
                'house = -5' => 'may not see -5',
                'house = 2' => 'may not see 2',
                '2 = house' => 'may not see 2',
                'house = 1 OR house = 2' => 'may not see 2',
                'house BETWEEN 1 AND 5' => 'may not see 1..5',
                'house = ?' => $unknown,
                '? = house' => $unknown,
                'house IN (1, ?)' => $unknown,
                'house IN (?, 1)' => $unknown,
                'house = ? OR house = 5' => $unknown,
                'house = 5 OR house = ?' => $unknown,
                'house BETWEEN ? AND 5' => $unknown,
                'house NOT IN (1, 5)' => $all,
                'house NOT BETWEEN 1 AND 1' => $all,
                'house <> 5' => $all,
                'house > 4' => $all,
                'house = 5 OR bay = 5' => $all,
                'bay = 5 OR house = 5' => $all,
                'house = bay' => $all,
                'house IN (1, bay)' => $all,
                'house IN (bay, 1)' => $all,
                'house BETWEEN bay AND 5' => $all,
                'house = 5 OR kilos > 2' => $all,
                'NOT house = 5' => $all,
                'house + 0 = 5' => $all,
                'house = 1 OR house IN (bay)' => $all,
            ] as $condition => $says
        ) {
            yield $condition => [$condition, $says];
        }
    }

    #[DataProvider('conditions')]
    public function test_what_a_condition_asks_for_is_what_all_its_rows_have(string $condition, string $says): void
    {
        $policy = SampleAccess::policy([
            'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => '']]],
            'scopes' => [
                'some' => ['dimension' => 'site', 'for' => ['role:crew'], 'values' => ['1', '5'], 'level' => 'detail', 'mode' => 'refuse'],
            ],
        ]);
        $answer = SampleAccess::answer($policy, "SELECT bay FROM field.pick WHERE {$condition}");
        $says === ''
            ? self::assertStringContainsString('WHERE house IN (1, 5)', $answer)
            : self::assertStringContainsString($says, $answer);
    }

    public function test_totals_say_which_groups_are_left_out_as_long_as_some_are(): void
    {
        $policy = static fn (int $smallest): Policy => SampleAccess::policy([
            'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => '']]],
            'settings' => ['smallest group' => ['value' => $smallest]],
            'scopes' => [
                'all' => ['dimension' => 'site', 'for' => ['role:crew'], 'everything' => true, 'level' => 'totals', 'mode' => 'refuse'],
            ],
        ]);
        $sql = 'SELECT bay, sum(kilos) FROM field.pick GROUP BY bay';
        self::assertSame($sql, SampleAccess::answer($policy(1), $sql));
        self::assertSame(
            [],
            array_filter(SampleAccess::ask($policy(1), $sql)->notes, static fn (string $note): bool => str_contains($note, 'left out')),
        );
        self::assertSame("{$sql} HAVING count(*) >= 2", SampleAccess::answer($policy(2), $sql));
        self::assertStringContainsString(
            'groups of fewer than 2 rows are left out',
            implode(' ', SampleAccess::ask($policy(2), $sql)->notes),
        );
        self::assertSame(
            [],
            SampleAccess::ask($policy(2), 'SELECT name FROM people.crew')->notes,
            'nothing is said of a table that is not added up',
        );
        foreach (
            [
                'SELECT sum(kilos) OVER (PARTITION BY bay) FROM field.pick',
                'SELECT sum(kilos), (SELECT 1) FROM field.pick',
                'SELECT sum(kilos) FROM field.pick HAVING (SELECT true)',
            ] as $more
        ) {
            self::assertStringContainsString('in totals only', SampleAccess::answer($policy(2), $more), $more);
        }
    }

    public function test_names_in_an_old_view_are_those_of_its_own_schema(): void
    {
        $crew = self::table('c.field.crew', ['id' => TypeKind::Bigint, 'phone' => TypeKind::Text], null);
        $view = self::table('c.people.old', ['phone' => TypeKind::Text], 'CREATE VIEW people.old AS SELECT phone FROM crew');
        self::assertStringContainsString(
            'right(phone, 2)',
            SampleAccess::answer(self::policy(self::MASKED, $crew, $view), 'SELECT phone FROM people.old'),
        );
        self::assertStringContainsString(
            'people.crew',
            SampleAccess::answer(self::policy(self::MASKED, $crew, $view), 'SELECT phone FROM people.old'),
        );
    }

    public function test_columns_of_a_list_of_rows_are_numbered_from_one(): void
    {
        self::assertSame(
            'SELECT column1, column2 FROM (VALUES (1, 2)) AS v',
            SampleAccess::answer(SampleAccess::policy(), 'SELECT column1, column2 FROM (VALUES (1, 2)) AS v'),
        );
        foreach (['column0', 'column3'] as $none) {
            self::assertStringContainsString(
                "There is no column {$none} here",
                SampleAccess::answer(SampleAccess::policy(), "SELECT {$none} FROM (VALUES (1, 2)) AS v"),
            );
        }
    }

    public function test_a_filter_by_an_attribute_that_is_missing_leaves_nothing_and_the_others_still_stand(): void
    {
        $rule = static fn (string $filter): array => [
            'scope' => 'c.people.crew',
            'for' => ['everyone'],
            'effect' => 'filter',
            'filter' => $filter,
        ];
        $policy = SampleAccess::policy([
            'rules' => [
                'first' => $rule("name = person('shift')"),
                'second' => $rule("name = person('crane')"),
                'third' => $rule('id < 9'),
            ],
        ]);
        $left = 'SELECT name FROM (SELECT name FROM people.crew WHERE name = NULL AND name = NULL AND id < 9) AS crew';
        self::assertSame($left, SampleAccess::answer($policy, 'SELECT name FROM people.crew'));
    }

    public function test_columns_of_a_statement_are_looked_up_in_its_own_cluster(): void
    {
        $policy = self::policy([], self::table('d.people.crew', ['id' => TypeKind::Bigint], null));
        $decide = static fn (string $cluster): string => (string) (new StatementDecider(
            $policy,
            $policy->reader('person:ann'),
            $cluster,
        ))->decide('SELECT name FROM people.crew')->rewritten;
        self::assertSame('SELECT name FROM people.crew', $decide('c'));
        self::assertSame('', $decide('d'));
    }
}
