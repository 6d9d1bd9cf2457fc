<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\ActingRunner;
use App\Estate\Authorization\ActorClusters;
use App\Estate\Authorization\Clusters;
use App\Estate\Catalog\CatalogObject;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Connectors\QueryResult;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Role;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/**
 * What holds for every connector that runs statements: the same table, asked the same, gives the same in the same form.
 */
final class ConnectorContractTest extends TestCase
{
    private const ROWS = [
        [1, "'Ada'", '2.50', "DATE '2026-03-01'", "TIMESTAMP '2026-03-01 06:00:00'"],
        [2, "'Bren'", 'NULL', 'NULL', 'NULL'],
        [3, "'Zoë ''Z'' O''Hara'", '-4.00', "DATE '2026-12-31'", "TIMESTAMP '2026-12-31 23:59:59'"],
        [4, "''", '0.00', "DATE '2024-02-29'", "TIMESTAMP '2024-02-29 00:00:00'"],
    ];

    private Warehouse $warehouse;

    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $this->warehouse = Warehouse::create(PracticeClusters::root('practice'), 'Practice', 3, new HardwareProfile());
        $this->warehouse->createSchema('fulcrion_test');
        $settings = config('database.connections.mariadb');
        foreach (['practice' => Dialect::Ansi, 'mariadb' => Dialect::MariaDb] as $kind => $dialect) {
            Cluster::query()->create([
                'slug' => $kind,
                'name' => ucfirst($kind),
                'role' => 'rehearsal',
                'connector' => $kind,
                'dialect' => $dialect,
            ] + ($kind === 'practice' ? [] : [
                'host' => '127.0.0.1',
                'port' => $settings['port'],
                'username' => 'fulcrion_test',
                'secret' => (string) getenv('DB_PASSWORD'),
            ]));
        }
        $rows = implode(', ', array_map(static fn (array $row): string => '('.implode(', ', $row).')', self::ROWS));
        $runner = $this->runner('practice');
        $columns = 'id bigint NOT NULL, crew text, kilos decimal(8, 2), day date, at timestamp';
        $this->ask($runner, "CREATE TABLE fulcrion_test.contract_pick ({$columns}) PLACED BY (id)");
        $this->ask($runner, "INSERT INTO fulcrion_test.contract_pick VALUES {$rows}");
        DB::statement(
            'CREATE OR REPLACE TABLE contract_pick (id bigint NOT NULL, crew text, kilos decimal(8, 2), day date, at datetime)',
        );
        DB::statement("INSERT INTO contract_pick VALUES {$rows}");
    }

    protected function tearDown(): void
    {
        DB::statement('DROP TABLE IF EXISTS contract_pick');
        $this->warehouse->destroy();
        @rmdir((string) config('fulcrion.practice'));
        parent::tearDown();
    }

    /**
     * @return list<array{string}>
     */
    public static function connectors(): array
    {
        return [['practice'], ['mariadb']];
    }

    /** The two answer for each other: what both say the same of is what the statement means. */
    public function test_the_same_question_has_the_same_answer_on_both(): void
    {
        $of = 'FROM contract_pick p';
        $questions = [
            "SELECT id, crew, kilos, day, at {$of} ORDER BY id",
            "SELECT count(*) AS n, count(p.kilos) AS known, sum(p.kilos) AS kilos, min(p.day) AS first {$of}",
            "SELECT p.crew {$of} WHERE p.kilos IS NULL",
            "SELECT p.id {$of} WHERE p.id > 99",
            "SELECT p.id, q.crew {$of} JOIN contract_pick q ON q.id = p.id + 1 ORDER BY p.id",
            "SELECT p.id, q.id AS other {$of} LEFT JOIN contract_pick q ON q.id = p.id + 3 ORDER BY p.id",
            "SELECT upper(p.crew) AS crew, char_length(p.crew) AS length {$of} ORDER BY p.id",
            "SELECT p.id {$of} WHERE p.day BETWEEN DATE '2026-01-01' AND DATE '2026-06-30'",
            "SELECT CASE WHEN p.kilos < 0 THEN 'less' WHEN p.kilos IS NULL THEN 'none' ELSE 'more' END AS kind, count(*) AS n "
                ."{$of} GROUP BY 1 ORDER BY 1",
            "SELECT p.id {$of} ORDER BY p.id DESC LIMIT 2",
            "SELECT p.id {$of} WHERE p.crew LIKE 'Z%'",
            "SELECT coalesce(p.kilos, 1) AS kilos {$of} ORDER BY p.id",
        ];
        [$practice, $live] = [$this->runner('practice'), $this->runner('mariadb')];
        foreach ($questions as $sql) {
            [$one, $other] = [$this->ask($practice, $sql), $this->ask($live, $sql)];
            $names = static fn (QueryResult $result): array => array_map(static fn (Column $c): string => $c->name, $result->columns);
            self::assertSame($names($one), $names($other), $sql);
            self::assertEquals(self::said($one), self::said($other), $sql);
            self::assertSame([false, false], [$one->cut, $other->cut], $sql);
        }
    }

    #[DataProvider('connectors')]
    public function test_columns_say_of_which_kind_their_values_are(string $kind): void
    {
        $result = $this->ask($this->runner($kind), 'SELECT id, crew, kilos, day, at, 1.5e0 AS factor FROM contract_pick ORDER BY id');
        self::assertSame(
            [TypeKind::Bigint, TypeKind::Text, TypeKind::Decimal, TypeKind::Date, TypeKind::Timestamp, TypeKind::Double],
            array_map(static fn (Column $column): TypeKind => $column->type->kind, $result->columns),
        );
        self::assertSame(['1', 'Ada', '2.50', '2026-03-01', '2026-03-01 06:00:00', '1.5'], self::said($result)[0]);
        self::assertSame([null, null, null], array_slice($result->rows[1], 2, 3), 'what is not known is null');
        self::assertSame('', $result->rows[3][1], 'and no text is a text');
        self::assertGreaterThan(0, $result->elapsedUs);
    }

    #[DataProvider('connectors')]
    public function test_a_mistake_is_told_and_nothing_of_the_table_with_it(string $kind): void
    {
        $runner = $this->runner($kind);
        $mistakes = [
            'SELECT nowhere FROM contract_pick' => 'nowhere',
            'SELECT id FROM no_such_table' => 'no_such_table',
            'SELECT id FROM' => '',
            'SELECT no_such_function(id) FROM contract_pick' => 'no_such_function',
        ];
        foreach ($mistakes as $sql => $named) {
            try {
                $this->ask($runner, $sql);
                self::fail($sql);
            } catch (SourceError $error) {
                self::assertNotSame('', $error->getMessage());
                self::assertFalse($error->stopped);
                self::assertTrue($named === '' || str_contains(strtolower($error->getMessage()), $named), $error->getMessage());
                self::assertTrue($error->offset === null || $error->offset <= strlen($sql));
                self::assertStringNotContainsString('Ada', $error->getMessage());
                self::assertStringNotContainsString('SQLSTATE', $error->getMessage());
            }
        }
        self::assertSame([[4]], $this->ask($runner, 'SELECT count(*) FROM contract_pick')->rows, 'and the next statement runs');
    }

    #[DataProvider('connectors')]
    public function test_a_plan_is_what_is_expected_and_with_figures_what_happened(string $kind): void
    {
        $sql = 'SELECT p.crew, sum(p.kilos) FROM contract_pick p WHERE p.id < 4 GROUP BY p.crew';
        $runner = $this->runner($kind);
        $expected = $runner->plan($sql, 'fulcrion_test', false)->plan ?? self::fail('no plan');
        self::assertFalse($expected->actual);
        $names = Parts::said(array_map(static fn ($step): ?string => $step->table?->name, $expected->steps()));
        $bare = array_map(static fn (string $name): string => (string) preg_replace('~^.*\.~', '', $name), $names);
        self::assertContains('contract_pick', $bare);
        $actual = $runner->plan($sql, 'fulcrion_test', true)->plan ?? self::fail('no plan');
        self::assertTrue($actual->actual);
        $rows = array_map(static fn ($step): ?float => $step->rows->actual, $actual->steps());
        self::assertContains(3.0, $rows, 'three rows were read');
        self::assertSame($kind, $actual->engine);
    }

    #[DataProvider('connectors')]
    public function test_the_catalog_lists_the_table_with_its_columns(string $kind): void
    {
        $objects = $this->clusters()->objects($this->cluster($kind)) ?? self::fail('it has a catalog');
        $names = array_map(static fn (CatalogObject $object): string => "{$object->schema}.{$object->name}", $objects);
        $sorted = $names;
        sort($sorted);
        self::assertSame($sorted, $names);
        $found = array_values(array_filter($objects, static fn (CatalogObject $object): bool => $object->name === 'contract_pick'));
        self::assertCount(1, $found);
        self::assertFalse($found[0]->isView);
        self::assertSame(['id', 'crew', 'kilos', 'day', 'at'], array_column($found[0]->columns, 0));
        self::assertSame([false, true, true, true, true], array_column($found[0]->columns, 2));
        self::assertContains('upper', array_map(strtolower(...), $this->runner($kind)->functions()));
    }

    #[DataProvider('connectors')]
    public function test_what_may_not_be_changed_is_not_changed(string $kind): void
    {
        $runner = $this->runner($kind);
        foreach (["UPDATE contract_pick SET crew = 'x'", 'DELETE FROM contract_pick', 'DROP TABLE contract_pick'] as $sql) {
            if ($runner->changes()) {
                continue;
            }
            try {
                $this->ask($runner, $sql);
                self::fail($sql);
            } catch (SourceError $error) {
                self::assertNotSame('', $error->getMessage());
            }
        }
        self::assertSame($kind === 'practice', $runner->changes());
        self::assertSame([[4]], $this->ask($runner, "SELECT count(*) FROM contract_pick WHERE crew <> 'x'")->rows);
    }

    protected function cluster(string $slug = 'practice', Dialect $dialect = Dialect::Ansi): Cluster
    {
        return Cluster::query()->where('slug', $slug)->firstOrFail();
    }

    private function clusters(): ActorClusters
    {
        return app(Clusters::class)->for($this->person(Role::Engineer), 'contract');
    }

    private function runner(string $kind): ActingRunner
    {
        return $this->clusters()->runner($this->cluster($kind)) ?? self::fail("{$kind} runs statements");
    }

    private function ask(ActingRunner $runner, string $sql): QueryResult
    {
        return $runner->run($sql, 'fulcrion_test')->result ?? self::fail($sql);
    }

    /**
     * @return list<list<string|null>> as a page shows them
     */
    private static function said(QueryResult $result): array
    {
        return array_map(
            static fn (array $row): array => array_map(
                static fn (mixed $value, Column $column): ?string => $value === null ? null : $column->type->show($value),
                $row,
                $result->columns,
            ),
            $result->rows,
        );
    }
}
