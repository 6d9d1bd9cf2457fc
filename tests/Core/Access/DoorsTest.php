<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Catalog\TreeRow;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Catalog\HelperName;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Ways around the policy that were open once.
 */
final class DoorsTest extends TestCase
{
    private const MASKED = [
        'rules' => [
            'phones' => [
                'scope' => 'estate',
                'for' => ['everyone'],
                'when' => "labelled_below('personal')",
                'effect' => 'mask',
                'mask' => 'last2',
            ],
        ],
    ];

    private const TOTALS = [
        'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => '']]],
        'scopes' => [
            'sums' => ['dimension' => 'site', 'for' => ['role:crew'], 'everything' => true, 'level' => 'totals', 'mode' => 'refuse'],
        ],
    ];

    /**
     * @return array<string, array<string, mixed>>
     */
    private static function grant(string $on, string ...$privileges): array
    {
        return ['more' => ['effect' => 'allow', 'privileges' => array_values($privileges), 'on' => $on, 'to' => ['role:crew']]];
    }

    public function test_two_dimensions_on_one_column_both_hold(): void
    {
        $scope = static fn (string $dimension, string ...$values): array => [
            'dimension' => $dimension,
            'for' => ['role:crew'],
            'values' => array_values($values),
            'level' => 'detail',
            'mode' => 'trim',
        ];
        $both = [
            'dimensions' => ['site' => ['columns' => ['c.field.pick.house' => '']], 'area' => ['columns' => ['c.field.pick.house' => '']]],
        ];
        self::assertSame(
            'SELECT bay FROM (SELECT bay FROM field.pick WHERE house IN (1, 2) AND house IN (2, 3)) AS pick',
            SampleAccess::answer(
                SampleAccess::policy($both + ['scopes' => ['a' => $scope('site', '1', '2'), 'b' => $scope('area', '2', '3')]]),
                'SELECT bay FROM field.pick',
            ),
        );
        foreach (['site' => 'area', 'area' => 'site'] as $given => $missing) {
            self::assertSame(
                "This asks for all values of {$missing} (c.field.pick.house); ann may see no value.",
                SampleAccess::answer(
                    SampleAccess::policy($both + ['scopes' => ['a' => $scope($given, '1')]]),
                    'SELECT bay FROM field.pick',
                ),
            );
        }
    }

    public function test_a_dimension_on_a_column_that_is_not_there_closes(): void
    {
        $policy = SampleAccess::policy([
            'dimensions' => ['site' => ['columns' => ['c.field.pick.nowhere' => '']]],
            'scopes' => ['a' => ['dimension' => 'site', 'for' => ['role:crew'], 'values' => ['1'], 'level' => 'detail', 'mode' => 'trim']],
        ]);
        self::assertSame(
            'c.field.pick holds rows of site and no column that tells of which value; ann may see 1.',
            SampleAccess::answer($policy, 'SELECT bay FROM field.pick'),
        );
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function narrow(): iterable
    {
        yield 'columns named anew' => ['SELECT s.k FROM field.pick AS s (b, i, h, k)', 'in totals only'];
        yield 'a group named anew' => ['SELECT s.h, count(*) FROM field.pick AS s (b, i, h, k) GROUP BY s.h', 'in totals only'];
        yield 'one value named anew' => ['SELECT sum(s.k) FROM field.pick AS s (b, i, h, k) WHERE s.h = 1', 'ann may not see 1 of site'];
        yield 'groups and nothing added up' => ['SELECT bay FROM field.pick GROUP BY bay', 'it groups without adding anything up'];
        yield 'distinct values' => ['SELECT DISTINCT bay FROM field.pick', 'in totals only'];
        yield 'a greatest value' => ['SELECT max(kilos) FROM field.pick', 'max() shows a single value'];
        yield 'values in a row' => ["SELECT string_agg(CAST(kilos AS text), ',') FROM field.pick", 'string_agg() shows a single value'];
        yield 'a sum beside each row' => ['SELECT sum(kilos) OVER () FROM field.pick', 'in totals only'];
        yield 'a named window' => ['SELECT sum(kilos) FROM field.pick GROUP BY bay WINDOW w AS (ORDER BY bay)', 'in totals only'];
        yield 'groups of one row' => ['SELECT sum(kilos) FROM field.pick GROUP BY id', 'grouping by it shows single rows'];
        yield 'groups of one row, worked out' => [
            'SELECT bay, sum(kilos) FROM field.pick GROUP BY bay, id + 1',
            'grouping by it shows single rows',
        ];
        yield 'one row picked' => [
            'SELECT sum(kilos) FROM field.pick WHERE bay = 3 AND id IN (1, 2)',
            'a condition on it picks single rows',
        ];
        yield 'one row left out' => ['SELECT sum(kilos) FROM field.pick WHERE id <> 7', 'a condition on it picks single rows'];
    }

    #[DataProvider('narrow')]
    public function test_totals_add_up_many_rows(string $sql, string $why): void
    {
        $pick = SampleAccess::catalog()->tables['c.field.pick'];
        $policy = new Policy(
            SampleAccess::document(self::TOTALS),
            new AccessCatalog([new TableEntry($pick->path, $pick->columns, null, [], ['id'])]),
            ['tree' => new Hierarchy([], SampleAccess::DAY)],
            SampleAccess::DAY,
        );
        self::assertStringContainsString($why, SampleAccess::answer($policy, $sql));
        self::assertSame(
            'SELECT bay, sum(kilos) FROM field.pick WHERE kilos > 3 GROUP BY bay HAVING count(*) >= 5',
            SampleAccess::answer($policy, 'SELECT bay, sum(kilos) FROM field.pick WHERE kilos > 3 GROUP BY bay'),
        );
    }

    public function test_the_smallest_group_is_a_setting_and_stands_before_other_conditions_on_groups(): void
    {
        self::assertSame(
            'SELECT sum(kilos) FROM field.pick HAVING count(*) >= 2',
            SampleAccess::answer(
                SampleAccess::policy(self::TOTALS + ['settings' => ['smallest group' => ['value' => 2]]]),
                'SELECT sum(kilos) FROM field.pick',
            ),
        );
        self::assertSame(
            'SELECT sum(kilos) FROM field.pick HAVING count(*) >= 5 AND count(*) < 3',
            SampleAccess::answer(SampleAccess::policy(self::TOTALS), 'SELECT sum(kilos) FROM field.pick HAVING count(*) < 3'),
        );
    }

    public function test_replacing_takes_away_and_renaming_makes(): void
    {
        $create = SampleAccess::policy(['grants' => self::grant('c', 'create')]);
        self::assertSame(
            'CREATE TABLE field.new AS SELECT 1 AS id',
            SampleAccess::answer($create, 'CREATE TABLE field.new AS SELECT 1 AS id'),
        );
        self::assertSame(
            'No grant of drop on c.field.pick or above.',
            SampleAccess::answer($create, 'CREATE OR REPLACE TABLE field.pick AS SELECT 1 AS id'),
        );
        self::assertSame(
            'No grant of drop on c.people.list or above.',
            SampleAccess::answer($create, 'CREATE OR REPLACE VIEW people.list AS SELECT 1 AS id'),
        );
        self::assertSame(
            'CREATE OR REPLACE TABLE field.pick AS SELECT 1 AS id',
            SampleAccess::answer(
                SampleAccess::policy(['grants' => self::grant('c', 'create', 'drop')]),
                'CREATE OR REPLACE TABLE field.pick AS SELECT 1 AS id',
            ),
        );
        self::assertSame('No grant of alter on c.field.pick or above.', SampleAccess::answer($create, 'RENAME TABLE field.pick TO puck'));
        self::assertStringContainsString(
            'No grant of create',
            SampleAccess::answer(SampleAccess::policy(['grants' => self::grant('c', 'alter')]), 'RENAME TABLE field.pick TO puck'),
        );
        self::assertSame(
            'RENAME TABLE field.pick TO puck',
            SampleAccess::answer(
                SampleAccess::policy(['grants' => self::grant('c', 'alter', 'create')]),
                'RENAME TABLE field.pick TO puck',
            ),
        );
    }

    public function test_a_keyed_hash_shows_nothing_to_whoever_may_write_into_the_table(): void
    {
        $hash = ['rules' => ['phones' => ['mask' => 'hash'] + self::MASKED['rules']['phones']]];
        self::assertStringContainsString(
            'keyed_hash(phone)',
            SampleAccess::answer(SampleAccess::policy($hash), 'SELECT phone FROM people.crew'),
        );
        foreach (['insert', 'update'] as $privilege) {
            $answer = SampleAccess::answer(
                SampleAccess::policy($hash + ['grants' => self::grant('c.people.crew', $privilege)]),
                'SELECT phone FROM people.crew',
            );
            self::assertStringContainsString("'***' AS phone", $answer, $privilege);
            self::assertStringNotContainsString('keyed_hash', $answer);
        }
        self::assertStringContainsString(
            'keyed_hash(phone)',
            SampleAccess::answer(
                SampleAccess::policy($hash + ['grants' => self::grant('c.field', 'insert', 'create')]),
                'SELECT phone FROM people.crew',
            ),
            'what is written elsewhere is not hashed',
        );
        self::assertStringContainsString(
            'belongs to masks and cannot be called',
            SampleAccess::answer(SampleAccess::policy($hash), "SELECT id FROM people.crew WHERE keyed_hash('1') = phone"),
        );
    }

    /**
     * @return iterable<string, array{string, bool}>
     */
    public static function uses(): iterable
    {
        yield 'existence' => ['SELECT id FROM people.crew AS a WHERE EXISTS (SELECT phone FROM people.crew)', true];
        yield 'shown' => ['SELECT phone FROM people.crew', true];
        yield 'worked with' => ['SELECT upper(phone) FROM people.crew', true];
        yield 'all rows of two' => ["SELECT phone FROM people.crew UNION ALL SELECT 'x'", true];
        yield 'another column sorts' => ['SELECT id FROM people.crew ORDER BY id', true];
        yield 'compared' => ["SELECT id FROM people.crew WHERE phone LIKE '1%'", false];
        yield 'sorted by number' => ['SELECT phone FROM people.crew ORDER BY 1', false];
        yield 'sorted by another name' => ['SELECT phone AS p FROM people.crew ORDER BY p', false];
        yield 'sorted' => ['SELECT id FROM people.crew ORDER BY phone DESC', false];
        yield 'looked up' => ["SELECT id FROM people.crew WHERE 'x' IN (SELECT phone FROM people.crew)", false];
        yield 'told apart by a union' => ['SELECT phone FROM people.crew UNION SELECT phone FROM people.crew', false];
        yield 'left out by a difference' => ["SELECT phone FROM people.crew EXCEPT SELECT 'x'", false];
        yield 'told apart' => ['SELECT DISTINCT phone FROM people.crew', false];
        yield 'grouped' => ['SELECT count(*) FROM people.crew GROUP BY phone', false];
        yield 'tested in the list' => ["SELECT CASE WHEN phone = 'x' THEN 1 END FROM people.crew", false];
        yield 'a comparison in the list' => ["SELECT phone = 'x' FROM people.crew", false];
        yield 'joined' => ['SELECT a.id FROM people.crew AS a JOIN people.crew AS b ON a.phone = b.phone', false];
        yield 'joined by name' => ['SELECT a.id FROM people.crew AS a JOIN people.crew AS b USING (phone)', false];
        yield 'a pattern in the list' => ["SELECT phone LIKE '1%' FROM people.crew", false];
        yield 'a case without a test' => ['SELECT CASE phone WHEN id THEN 1 END FROM people.crew', false];
        yield 'a window' => ['SELECT rank() OVER (ORDER BY phone) FROM people.crew', false];
        yield 'a query in between' => ["SELECT id FROM (SELECT id, phone AS p FROM people.crew) AS x WHERE p = 'x'", false];
    }

    #[DataProvider('uses')]
    public function test_masked_values_are_used_for_nothing_where_that_is_refused(string $sql, bool $allowed): void
    {
        $answer = SampleAccess::answer(SampleAccess::policy(self::MASKED + ['settings' => ['masked use' => ['value' => 'refuse']]]), $sql);
        self::assertSame(! $allowed, str_contains($answer, 'is masked for ann and may not be used'), $answer);
    }

    public function test_paths_are_the_same_with_quotes_and_without(): void
    {
        $hide = static fn (string $scope, string $on): array => [
            'labels' => ['l' => ['on' => $on, 'key' => 'shut', 'value' => '1']],
            'rules' => ['r' => ['scope' => $scope, 'for' => ['everyone'], 'when' => "labelled('shut')", 'effect' => 'hide']],
        ];
        foreach (
            [['c.people', 'c.people.crew.phone'], ['c."people"', 'c."people"."crew"."phone"'], ['"c".people',
                'C.People.Crew."phone"']] as [$scope, $on]
        ) {
            self::assertStringContainsString(
                'phone is hidden for ann',
                SampleAccess::answer(SampleAccess::policy($hide($scope, $on)), 'SELECT phone FROM people.crew'),
                $on,
            );
        }
        $deny = SampleAccess::policy([
            'grants' => ['no' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'c."people"."crew"', 'to' => ['role:crew']]],
        ]);
        self::assertStringContainsString('closed to ann', SampleAccess::answer($deny, 'SELECT id FROM people.crew'));
    }

    public function test_what_names_nothing_is_told_and_is_grave_where_it_is_new(): void
    {
        $lost = [
            'labels' => ['l' => ['on' => 'c.people.crew.nobody', 'key' => 'shut', 'value' => '1']],
            'products' => [
                'p' => ['title' => 'P', 'purpose' => 'x', 'owner' => 'role:keeper', 'audience' => ['crew'], 'views' => ['c.people.gone']],
            ],
        ];
        $document = SampleAccess::document($lost);
        $problems = (new DocumentCheck($document, SampleAccess::catalog(), SampleAccess::document()))->problems();
        foreach (['c.people.crew.nobody', 'c.people.gone'] as $path) {
            $found = array_filter($problems, static fn ($problem): bool => str_contains((string) $problem, $path));
            self::assertNotSame([], $found, $path);
            self::assertTrue(reset($found)->grave, $path);
        }
    }

    public function test_helper_tables_are_there_for_nobody(): void
    {
        foreach (['people.crew__kept_12', 'people.crew__new_12', 'rehearsal_7.as_it_is'] as $name) {
            [$schema, $table] = explode('.', $name);
            self::assertTrue(HelperName::is($schema, $table), $name);
            $catalog = new AccessCatalog([
                ...array_values(SampleAccess::catalog()->tables),
                new TableEntry("c.{$name}", SampleAccess::catalog()->tables['c.people.crew']->columns),
            ]);
            self::assertSame(
                "There is no table or view {$name} on c.",
                SampleAccess::answer(
                    new Policy(SampleAccess::document(), $catalog, ['tree' => new Hierarchy([], SampleAccess::DAY)], SampleAccess::DAY),
                    "SELECT * FROM {$name}",
                    'role:keeper',
                ),
            );
        }
        self::assertFalse(HelperName::is('people', 'crew__kept'));
        self::assertFalse(HelperName::is('rehearsals', 'crew'));
    }

    public function test_rollups_and_lookups_need_plain_sight_of_what_they_read(): void
    {
        $policy = SampleAccess::policy(self::MASKED + ['grants' => self::grant('c', 'create', 'alter')]);
        $why = 'Rollups and lookups are computed on all of a table, and ann sees c.people.crew in part only.';
        self::assertSame(
            $why,
            SampleAccess::answer($policy, 'CREATE ROLLUP people.r AS SELECT phone, count(*) FROM people.crew GROUP BY phone'),
        );
        self::assertSame(
            $why,
            SampleAccess::answer($policy, 'CREATE LOOKUP people.l WITH (key = id) AS SELECT id, phone FROM people.crew'),
        );
        self::assertSame(
            'CREATE ROLLUP people.r AS SELECT name, count(*) FROM people.crew GROUP BY name',
            SampleAccess::answer($policy, 'CREATE ROLLUP people.r AS SELECT name, count(*) FROM people.crew GROUP BY name'),
        );
        $filtered = SampleAccess::policy([
            'rules' => ['f' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'id < 9']],
            'grants' => self::grant('c', 'create', 'alter'),
        ]);
        self::assertSame(
            $why,
            SampleAccess::answer($filtered, 'CREATE ROLLUP people.r AS SELECT name, count(*) FROM people.crew GROUP BY name'),
        );
    }

    public function test_a_filter_is_asked_before_the_condition_of_a_change(): void
    {
        $policy = SampleAccess::policy([
            'rules' => ['f' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'id < 100']],
            'grants' => self::grant('c.people.crew', 'update', 'delete'),
        ]);
        self::assertSame(
            'UPDATE people.crew SET name = name WHERE id < 100 AND 1 / (id - 200) > 0',
            SampleAccess::answer($policy, 'UPDATE people.crew SET name = name WHERE 1 / (id - 200) > 0'),
        );
        self::assertSame(
            'DELETE FROM people.crew WHERE id < 100 AND (1 / (id - 200) > 0 OR id = 3)',
            SampleAccess::answer($policy, 'DELETE FROM people.crew WHERE 1 / (id - 200) > 0 OR id = 3'),
        );
    }

    public function test_hidden_columns_of_views_keep_their_type_and_years_of_texts_show_nothing(): void
    {
        $hide = ['rules' => ['r' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide']]];
        self::assertStringContainsString(
            'CAST(NULL AS double) AS pay',
            SampleAccess::answer(SampleAccess::policy($hide), 'SELECT * FROM people.list'),
        );
        $year = SampleAccess::policy([
            'masks' => ['year' => ['shows' => 'year only']],
            'rules' => ['r' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'mask', 'mask' => 'year']],
        ]);
        self::assertSame(
            "SELECT phone, born, wage FROM (SELECT '***' AS phone, CAST(NULL AS decimal(8, 2)) AS wage, CAST(date_trunc('year', born) "
                .'AS date) AS born FROM people.crew) AS crew',
            SampleAccess::answer($year, 'SELECT phone, born, wage FROM people.crew'),
        );
    }

    public function test_one_of_two_values_is_offered_before_everything(): void
    {
        $scope = [
            'dimensions' => self::TOTALS['dimensions'],
            'scopes' => [
                'a' => ['dimension' => 'site', 'for' => ['role:crew'], 'values' => ['1', '2'], 'level' => 'detail', 'mode' => 'refuse'],
            ],
        ];
        self::assertStringContainsString(
            'WHERE house IN (1, 2)',
            SampleAccess::answer(SampleAccess::policy($scope), 'SELECT bay FROM field.pick WHERE house = 1 OR house = 2'),
        );
        self::assertSame(
            'ann may not see 3 of site (c.field.pick.house); allowed: 1, 2.',
            SampleAccess::answer(SampleAccess::policy($scope), 'SELECT bay FROM field.pick WHERE house = 1 OR house = 3'),
        );
        self::assertSame(
            'This asks for all values of site (c.field.pick.house); ann may see 1, 2.',
            SampleAccess::answer(SampleAccess::policy($scope), 'SELECT bay FROM field.pick WHERE house = 1 OR bay = 3'),
        );
    }

    public function test_days_of_a_hierarchy_given_with_a_time_are_days(): void
    {
        $row = new TreeRow('11', '1', 'house 1', '2026-06-01 00:00:00', '2026-11-23 00:00:00', ['house' => '1', 'name' => 'house 1']);
        self::assertSame(['2026-06-01', '2026-11-23'], [$row->from, $row->to]);
        $rows = [...array_filter(SampleAccess::tree(), static fn (TreeRow $one): bool => $one->node !== '11'), $row];
        self::assertContains(
            'house 1',
            array_map(static fn (TreeRow $one): string => $one->name, (new Hierarchy($rows, '2026-11-23'))->branch('north')),
            'on the last day as well',
        );
        self::assertNotContains(
            'house 1',
            array_map(static fn (TreeRow $one): string => $one->name, (new Hierarchy($rows, '2026-11-24'))->branch('north')),
        );
    }

    public function test_a_release_names_tables_and_gives_a_reason(): void
    {
        $problems = Document::read(['releases' => ['c.field.book' => ['from' => ['c.people.crew']]]]);
        self::assertIsArray($problems);
        self::assertStringContainsString('reason', (string) $problems[0]);
    }
}
