<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What right each statement takes, and at which object: with just these rights it is run, without any of them it is not.
 */
final class NeedsTest extends TestCase
{
    /**
     * @return iterable<string, array{string, array<string, list<string>>}>
     */
    public static function statements(): iterable
    {
        $read = ['c.field.pick' => ['select']];
        yield 'a query' => ['SELECT id FROM field.pick', $read];
        yield 'an insert' => ['INSERT INTO people.crew (id) VALUES (7)', ['c.people.crew' => ['insert']]];
        yield 'an insert of a query' => ['INSERT INTO people.crew (id) SELECT id FROM field.pick', ['c.people.crew' => ['insert']] + $read];
        yield 'an update' => ['UPDATE field.pick SET kilos = 2 WHERE id = 3', ['c.field.pick' => ['select', 'update']]];
        yield 'a delete' => ['DELETE FROM field.pick WHERE id = 3', ['c.field.pick' => ['select', 'delete']]];
        yield 'a new table' => ['CREATE TABLE field.made (id bigint)', ['c.field' => ['create']]];
        yield 'a table of a query' => ['CREATE TABLE people.made AS SELECT id FROM field.pick', ['c.people' => ['create']] + $read];
        yield 'a table in the place of another' => [
            'CREATE OR REPLACE TABLE field.pick (id bigint)',
            ['c.field' => ['create'], 'c.field.pick' => ['drop']],
        ];
        yield 'a view' => ['CREATE VIEW people.seen AS SELECT id FROM field.pick', ['c.people' => ['create']] + $read];
        yield 'a view in the place of another' => [
            'CREATE OR REPLACE VIEW people.list AS SELECT id FROM field.pick',
            ['c.people' => ['create'], 'c.people.list' => ['drop']] + $read,
        ];
        yield 'a rollup' => [
            'CREATE ROLLUP field.sums AS SELECT house, count(*) FROM field.pick GROUP BY house',
            ['c.field' => ['create']] + $read,
        ];
        yield 'a lookup' => [
            'CREATE LOOKUP field.look WITH (key = id) AS SELECT id, kilos FROM field.pick',
            ['c.field' => ['create']] + $read,
        ];
        yield 'a refresh' => ['REFRESH ROLLUP field.pick', ['c.field.pick' => ['alter']]];
        yield 'statistics' => ['ANALYZE TABLE field.pick', ['c.field.pick' => ['alter']]];
        yield 'dropping a table' => ['DROP TABLE field.pick', ['c.field.pick' => ['drop']]];
        yield 'dropping a view' => ['DROP VIEW people.list', ['c.people.list' => ['drop']]];
        yield 'dropping a schema' => ['DROP SCHEMA field', ['c.field' => ['drop']]];
        yield 'a new schema' => ['CREATE SCHEMA fresh', ['c' => ['use', 'create']]];
        yield 'a new name' => ['RENAME TABLE field.pick TO picked', ['c.field.pick' => ['alter'], 'c.field' => ['create']]];
    }

    /**
     * @param  array<string, list<string>>  $needs path => privileges
     */
    #[DataProvider('statements')]
    public function test_a_statement_takes_just_these_rights(string $sql, array $needs): void
    {
        $all = [];
        foreach ($needs as $path => $privileges) {
            foreach ($privileges as $privilege) {
                $all[] = [$privilege, $path];
            }
        }
        // Everybody may enter the schemas; entering the cluster is what making a schema takes.
        $enter = array_map(static fn (string $schema): array => ['use', $schema], ['c.people', 'c.field']);
        self::assertTrue(
            SampleAccess::ask(self::with([...$enter, ...$all]), $sql)->isAllowed(),
            SampleAccess::answer(self::with([...$enter, ...$all]), $sql),
        );
        foreach ($all as $i => [$privilege, $path]) {
            $fewer = [...$enter, ...array_values(array_diff_key($all, [$i => 0]))];
            $decision = SampleAccess::ask(self::with($fewer), $sql);
            self::assertFalse($decision->isAllowed(), "without {$privilege} at {$path}");
            self::assertStringContainsString(
                $privilege === 'use' ? "no use of {$path}" : ($privilege === 'select' ? 'ann' : "no grant of {$privilege} on {$path}"),
                strtolower($decision->sentence()),
            );
            self::assertNull($decision->rewritten);
        }
        foreach (['c.people', 'c.field'] as $schema) {
            $touches = array_filter(
                array_keys($needs),
                static fn (string $path): bool => $path === $schema || str_starts_with($path, "{$schema}."),
            );
            $entered = SampleAccess::ask(
                self::with([...array_values(array_filter($enter, static fn (array $one): bool => $one[1] !== $schema)), ...$all]),
                $sql,
            )->isAllowed();
            self::assertSame($touches === [] || in_array(['use', 'c'], $all, true), $entered, "without use of {$schema}");
        }
    }

    /**
     * @param  list<array{string, string}>  $rights
     */
    private static function with(array $rights): \Fulcrion\Core\Access\Decide\Policy
    {
        $grants = ['all' => ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'c.nowhere', 'to' => ['role:keeper']]];
        foreach ($rights as $i => [$privilege, $path]) {
            $grants["right {$i}"] = ['effect' => 'allow', 'privileges' => [$privilege], 'on' => $path, 'to' => ['role:crew']];
        }

        return SampleAccess::policy(['grants' => $grants]);
    }

    public function test_what_is_not_decided_here_is_not_run(): void
    {
        $policy = SampleAccess::policy();
        self::assertSame(
            'Access is decided by the policy; GRANT and REVOKE are not run for anybody.',
            SampleAccess::answer($policy, 'GRANT SELECT ON field.pick TO bob', 'role:keeper'),
        );
        self::assertStringContainsString(
            'Write the schema in front of pick',
            SampleAccess::answer($policy, 'DROP TABLE pick', 'role:keeper'),
        );
        foreach (
            [
                'CREATE TABLE people.crew__new_3 (id bigint)',
                'CREATE SCHEMA rehearsal_4',
                'RENAME TABLE people.crew TO crew__kept_9',
                'CREATE TABLE rehearsal_4.x AS SELECT 1 AS a',
            ] as $sql
        ) {
            self::assertStringContainsString(
                'is a name that changes use for tables they keep and build',
                SampleAccess::answer($policy, $sql, 'role:keeper'),
                $sql,
            );
        }
    }
}
