<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use BackedEnum;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Encodings\EncodingTrial;
use Fulcrion\Core\Storage\Encodings\Lab;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\HouseRules;
use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexAdvisor;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\LayoutModel;
use Fulcrion\Core\Storage\LayoutStatistics;
use Fulcrion\Core\Storage\LayoutUses;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\PartitionAdvisor;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Reordering;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use UnitEnum;

/**
 * All that is said of a small estate, to the last figure, as it was read and found right once: six ways it may be laid out. Whoever
 * changes a figure sees which ones move: delete a file, run the test, read the difference.
 */
final class GoldenAdviceTest extends TestCase
{
    private const DAY_US = 86_400_000_000;

    private const NOW_US = 20_780 * self::DAY_US;

    private const STATEMENTS = [
        'SELECT c.week, max(p.kilos) FROM farm.pick p JOIN farm.cal c ON c.day = p.day WHERE c.week = 47 GROUP BY c.week' => 55.0,
        'SELECT p.bay, p.day, sum(p.kilos), max(p.kilos) FROM farm.pick p GROUP BY p.bay, p.day' => 35.0,
        "SELECT date_trunc('month', p.day), p.bay, p.kind, avg(p.kilos) FROM farm.pick p GROUP BY 1, 2, 3" => 45.0,
        "SELECT p.bay, sum(p.kilos) FROM farm.pick p WHERE p.day >= DATE '2026-11-10' GROUP BY p.bay" => 400.0,
        "SELECT p.kind, count(*) FROM farm.pick p WHERE p.day = DATE '2026-11-04' GROUP BY p.kind" => 250.0,
        "SELECT b.house, sum(p.kilos) FROM farm.pick p JOIN farm.bay b ON b.id = p.bay WHERE b.house = 'north' GROUP BY b.house" => 180.0,
        'SELECT p.bay, max(p.kilos) FROM farm.pick p WHERE p.bay IN (3, 5, 90) GROUP BY p.bay' => 120.0,
        'SELECT c.week, sum(p.kilos) FROM farm.pick p JOIN farm.cal c ON c.day = p.day WHERE c.week = 45 GROUP BY c.week' => 90.0,
        "SELECT date_trunc('week', p.day), p.kind, sum(p.kilos), count(*) FROM farm.pick p GROUP BY 1, 2" => 60.0,
        "SELECT count(*), sum(p.kilos) FROM farm.pick p WHERE date_trunc('month', p.day) = DATE '2026-11-01'" => 44.0,
        'SELECT p.id FROM farm.pick p JOIN farm.crate k ON k.pick = p.id WHERE p.kilos > 40' => 30.0,
        'SELECT k.id, k.note FROM farm.crate k WHERE k.note LIKE \'wet%\'' => 25.0,
        'SELECT k.pick, count(*) FROM farm.crate k JOIN farm.pick p ON p.id = k.pick AND p.bay = k.bay GROUP BY k.pick' => 20.0,
        'SELECT k.id FROM farm.crate k JOIN farm.bay b ON b.house = k.bay' => 12.0,
        'SELECT p.id, p.day, p.bay, p.kind, p.kilos FROM farm.pick p WHERE p.id BETWEEN 1000 AND 1100' => 9.0,
    ];

    /**
     * @return iterable<string, array{string, Distribution, Partitioning|null, list<string>, int}>
     */
    public static function worlds(): iterable
    {
        yield 'as loads left it' => ['loads', Distribution::even(), null, [], 1];
        yield 'by few values' => ['skewed', Distribution::hash('kind'), null, ['day'], 1000];
        yield 'in many partitions' => ['parts', Distribution::hash('id'), new Partitioning('day', 1), ['bay'], 10];
        yield 'copied' => ['copied', Distribution::copy(), null, ['day', 'bay'], 1000];
        yield 'in no order, by few values' => ['heap', Distribution::hash('kind'), null, [], 1000];
        yield 'in no order, by a wide key' => ['wide', Distribution::hash('bay'), null, [], 1000];
    }

    /**
     * @param  list<string>  $clustering
     */
    #[DataProvider('worlds')]
    public function test_what_is_said_of_a_layout(
        string $name,
        Distribution $distribution,
        ?Partitioning $partitioning,
        array $clustering,
        int $rowFactor,
    ): void {
        [$pick, $sample] = self::picks($distribution, $partitioning, $clustering, $rowFactor, in_array($name, ['heap', 'wide'], true));
        $tables = ['farm.pick' => $pick, 'farm.crate' => self::crates($rowFactor), 'farm.bay' => self::bays(), 'farm.cal' => self::days()];
        $estate = new Estate($tables, self::workload($tables), new ClusterRates(0.9, 0.05, 0.02, 40.0), self::NOW_US, [
            'farm.pick' => ['factor' => 12.5, 'statement' => 'abcdef0123456789'],
        ]);
        $spreads = array_map(static fn (string $column): ColumnSpread => ColumnSpread::of(
            $column,
            array_count_values(array_map(strval(...), $sample->column($column))),
            static fn (int|string $value): int|string => $column === 'kind' ? (string) $value : (int) $value,
            $pick->nodes,
        ), ['id', 'bay', 'kind']);
        $said = ['rules' => [], 'now' => (new LayoutModel($estate, $pick, $sample))->now()];
        foreach ($tables as $of => $table) {
            $own = $of === 'farm.pick' ? $sample : null;
            $low = ['hours' => 0.0, 'executions' => 1.0, 'space' => 0.6];
            $said['rules'][$of] = HouseRules::check(new TableCase($table, $estate, $own), [
                'repeated-groups' => $low, 'joined-to-filter' => $low, 'tiny-chunks' => ['saved' => 5.0, 'share' => 0.3],
                'poor-order' => ['rows' => 100.0, 'gain' => 0.95], 'copied-large' => ['rows' => 1000.0], 'skew' => ['skew' => 1.1],
            ]);
            $said['lookups'][$of] = (new LookupAdvisor($estate))->of($table, $own);
            $said['compaction'][$of] = Compaction::of($table);
        }
        $said['advice'] = (new FullAdvice($estate))->of($pick, $sample, $spreads);
        $said['partitions'] = (new PartitionAdvisor($estate))->tried($pick, $sample);
        $said['orders'] = (new ClusteringAdvisor($estate))->tried($pick, $sample);
        $said['placements'] = (new DistributionAdvisor($estate))->tried($pick, $spreads, $sample);
        $said['reordering'] = Reordering::of($pick, 2_000);
        $said['overlap'] = [Overlap::of($pick, 'day'), Overlap::of($pick, 'bay', 1)];
        $rollups = (new RollupAdvisor($estate))->of($pick, $sample, 0.5 * $pick->bytes());
        foreach ($rollups->proposals() as $one) {
            $said['rollups'][] = [$one->create(), $one->drop(), $one->factor(), $one->savings(), $one->executions(), $one];
        }
        $said['rollup cost'] = $rollups->nowUs();
        foreach ($rollups->candidates as $one) {
            $said['rollup candidates'][$one->key()] = $one;
        }
        self::assertGolden($name, $said);
    }

    public function test_what_is_said_of_indexes(): void
    {
        $column = static fn (float $bytes, ?float $distinct, bool $long = false): array => [
            'bytes' => $bytes, 'distinct' => $distinct, 'long' => $long,
        ];
        $tables = [
            'farm.pick' => new IndexedTable('farm.pick', 200_000, [
                'id' => $column(8.0, 200_000.0), 'day' => $column(3.0, 30.0), 'bay' => $column(4.0, 120.0), 'kind' => $column(20.0, 3.0),
                'kilos' => $column(8.0, null),
            ], [new Index(Index::PRIMARY, ['id'], true, 0), new Index('by_kind', ['kind'], false, 3)]),
            'farm.crate' => new IndexedTable('farm.crate', 900_000, [
                'id' => $column(8.0, 900_000.0), 'pick' => $column(8.0, 190_000.0), 'bay' => $column(4.0, 120.0),
                'note' => $column(300.0, 5_000.0, true),
            ], [new Index(Index::PRIMARY, ['id'], true, 0)], [['pick']]),
            'farm.bay' => new IndexedTable('farm.bay', 800, [
                'id' => $column(4.0, 800.0), 'house' => $column(16.0, 9.0),
            ], [new Index(Index::PRIMARY, ['id'], true, 0)]),
        ];
        $advisor = new IndexAdvisor($tables);
        $statements = [];
        foreach (self::STATEMENTS as $sql => $executions) {
            if (! str_contains($sql, 'farm.cal')) {
                $statements[] = new StatementUse(hash('xxh128', $sql), $executions, $executions * 4e5, 0.0, [], $sql, '', 'farm');
            }
        }
        $asked = $advisor->asked($statements);
        $missing = $advisor->missing($statements, [], ['farm.pick' => ['kind' => ['mint' => 0.6, 'cress' => 0.2]]]);
        $bytes = array_map(static fn ($one): float => $tables[$one->table]->indexBytes($one), $missing);
        self::assertGolden('indexes', [
            'asked' => $asked, 'missing' => $missing, 'bytes' => $bytes, 'needless' => $advisor->needless(700_000),
            'create' => array_map(static fn ($one): array => [$one->create(), $one->drop(), $one->savedUs()], $missing),
        ]);
    }

    public function test_what_is_said_of_encodings(): void
    {
        [, $sample] = self::picks(Distribution::even(), null, [], 1);
        $type = ColumnType::of(...);
        $columns = [
            new Column('id', $type(TypeKind::Bigint)), new Column('day', $type(TypeKind::Date)), new Column('kind', $type(TypeKind::Text)),
            new Column('kilos', $type(TypeKind::Double)),
        ];
        $clock = 0;
        $places = [];
        foreach ([0, 700, 1_500] as $from) {
            $part = [];
            foreach ($columns as $one) {
                $part[$one->name] = array_slice($sample->column($one->name), $from, 500);
            }
            $places[] = new Place($part);
        }
        $steps = [];
        $result = (new Lab(
            $columns,
            200,
            static function () use (&$clock): int {
                return $clock += 100 + $clock % 7;
            },
            static function (string $what, float $share) use (&$steps): void {
                $steps[] = [$what, $share];
            },
        ))->run($places, ['day']);
        // What gzip makes of it is its own affair.
        $plain = array_values(array_filter($result->trials, static fn (EncodingTrial $one): bool => $one->compression === 'none'));
        $variants = array_values(array_filter(
            $result->variants(['id' => 1.0, 'kilos' => 0.25]),
            static fn ($one): bool => $one->compression === 'none',
        ));
        self::assertGolden('encodings', [
            'rows' => $result->rows, 'orders' => $result->orders, 'facts' => $result->facts, 'trials' => $plain, 'steps' => $steps,
            'variants' => $variants,
        ]);
    }

    /**
     * @param  array<string, mixed>  $said
     */
    private static function assertGolden(string $name, array $said): void
    {
        $path = __DIR__."/golden/{$name}.json";
        $now = json_encode(self::plain($said), JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR);
        if (! is_file($path)) {
            file_put_contents($path, "{$now}\n");
            self::fail("{$path} was written: read it.");
        }
        self::assertSame(explode("\n", trim((string) file_get_contents($path))), explode("\n", $now));
    }

    /** As it is written: numbers to six digits, and of a table its name alone. */
    private static function plain(mixed $value): mixed
    {
        return match (true) {
            is_float($value) => is_finite($value) ? (float) sprintf('%.6g', $value) : (string) $value,
            $value instanceof TableLayout => $value->name,
            $value instanceof TableDefinition => [
                $value->distribution->describe(), $value->partitioning?->describe(), $value->clustering()->describe(), $value->chunkRows,
            ],
            $value instanceof BackedEnum => $value->value,
            $value instanceof UnitEnum => $value->name,
            is_object($value) => array_map(self::plain(...), get_object_vars($value)),
            is_array($value) => array_map(self::plain(...), $value),
            default => $value,
        };
    }

    /**
     * @param  list<string>  $clustering
     * @return array{TableLayout, Sample} 6,000 rows in 60 chunks of six nodes, and a third of them
     */
    private static function picks(
        Distribution $distribution,
        ?Partitioning $partitioning,
        array $clustering,
        int $rowFactor,
        bool $isHeap = false,
    ): array {
        $random = new Randomizer(new Mt19937(31));
        $chunks = [];
        $sample = ['id' => [], 'day' => [], 'bay' => [], 'kind' => [], 'kilos' => []];
        $kinds = ['cress', 'mint', 'mint', 'mint', 'basil'];
        for ($i = 0; $i < 60; $i++) {
            $day = $isHeap ? 20_740 + $random->getInt(0, 9) : 20_740 + intdiv($i, 2);
            $rows = $i % 9 === 8 ? 30 : 100;
            $ids = $days = $bays = [];
            for ($row = 0; $row < $rows; $row++) {
                $ids[] = $i * 100 + $row;
                $days[] = $day + ($isHeap ? $random->getInt(0, 20) : ($row % 25 === 0 ? 3 : 0));
                $bays[] = $random->getInt(1, 120);
                if ($row % 3 === 0) {
                    $kilos = (float) ($random->getInt(1, 400) / 8);
                    foreach ([$ids[$row], $days[$row], $bays[$row], $kinds[$bays[$row] % 5], $kilos] as $k => $value) {
                        $sample[array_keys($sample)[$k]][] = $value;
                    }
                }
            }
            $node = match ($distribution->kind) {
                Distribution::COPY => Chunk::EVERY_NODE,
                Distribution::HASH => $distribution->columns === ['kind'] ? [0, 0, 0, 2, 5][$i % 5] : $i % 6,
                default => $i % 6,
            };
            $chunks[] = new Chunk("c{$i}", $node, $partitioning === null ? '' : (string) $day, $rows, $rows * 21, [
                new ZoneMap(min($ids), max($ids), 0, $rows, $rows * 6),
                new ZoneMap(min($days), max($days), 0, 4, $rows * 2),
                new ZoneMap(min($bays), max($bays), 0, 100, $rows * 3),
                new ZoneMap('basil', 'mint', 0, 3, $rows * 2),
                new ZoneMap(0.125, 50.0, $i % 7, $rows, $rows * 8),
            ]);
        }
        $type = ColumnType::of(...);
        $table = new TableLayout(
            'farm.pick',
            new TableDefinition(
                [
                    new Column('id', $type(TypeKind::Bigint), false), new Column('day', $type(TypeKind::Date), false),
                    new Column('bay', $type(TypeKind::Bigint)), new Column('kind', $type(TypeKind::Text)),
                    new Column('kilos', $type(TypeKind::Double)),
                ],
                $distribution,
                $partitioning,
                $clustering,
                400,
            ),
            6,
            $chunks,
            $rowFactor,
            // Bytes of files are taken as they are: how gzip packs is its own affair.
            engine: 'files',
            statistics: new LayoutStatistics([
                'day' => ['distinct' => 33, 'nullShare' => 0.0], 'bay' => ['distinct' => 120, 'nullShare' => 0.0],
                'kind' => ['distinct' => 3, 'nullShare' => 0.1],
            ], 9 * self::DAY_US, 0.3),
        );

        return [$table, new Sample($sample, $table->rows())];
    }

    private static function crates(int $rowFactor): TableLayout
    {
        $chunks = [];
        for ($i = 0; $i < 24; $i++) {
            $chunks[] = new Chunk("k{$i}", $i % 6, '', 500, 20_000, [
                new ZoneMap($i * 500, $i * 500 + 499, 0, 500, 3_000), new ZoneMap($i * 200, $i * 250 + 400, $i % 3, 300, 3_000),
                new ZoneMap('1', '99', 0, 99, 1_500), new ZoneMap('dry', 'wet', 0, 40, 12_500),
            ]);
        }
        $type = ColumnType::of(...);

        return new TableLayout('farm.crate', new TableDefinition([
            new Column('id', $type(TypeKind::Bigint), false), new Column('pick', $type(TypeKind::Bigint)),
            new Column('bay', $type(TypeKind::Text)), new Column('note', $type(TypeKind::Text)),
        ], Distribution::hash('pick'), null, ['pick'], 1_000), 6, $chunks, $rowFactor);
    }

    /**
     * @param  array<string, int>  $distinct by column
     */
    private static function distinct(array $distinct): LayoutStatistics
    {
        return new LayoutStatistics(array_map(static fn (int $one): array => ['distinct' => $one, 'nullShare' => 0.0], $distinct));
    }

    private static function bays(): TableLayout
    {
        $type = ColumnType::of(...);

        return new TableLayout('farm.bay', new TableDefinition(
            [new Column('id', $type(TypeKind::Bigint), false), new Column('house', $type(TypeKind::Text))],
            Distribution::copy(),
        ), 6, [new Chunk('b', Chunk::EVERY_NODE, '', 120, 1_400, [new ZoneMap(1, 120, 0, 120, 500), new ZoneMap('a', 'west', 0, 6, 900)])],
            statistics: self::distinct(['id' => 120, 'house' => 6]));
    }

    private static function days(): TableLayout
    {
        $type = ColumnType::of(...);

        return new TableLayout('farm.cal', new TableDefinition(
            [new Column('day', $type(TypeKind::Date), false), new Column('week', $type(TypeKind::Bigint))],
            Distribution::even(),
        ), 6, [new Chunk('d', 0, '', 400, 3_000, [new ZoneMap(20_500, 20_899, 0, 400, 1_600), new ZoneMap(1, 53, 0, 53, 1_400)])],
            statistics: self::distinct(['day' => 400, 'week' => 53]),
            uses: new LayoutUses());
    }

    /**
     * @param  array<string, TableLayout>  $tables
     */
    private static function workload(array $tables): Workload
    {
        $reader = new UseReader(array_map(static fn (TableLayout $one): array => array_combine(
            array_map(static fn (Column $c): string => $c->name, $one->definition->columns),
            array_map(static fn (Column $c): ColumnType => $c->type, $one->definition->columns),
        ), $tables));
        $statements = [];
        foreach (self::STATEMENTS as $sql => $executions) {
            $statements[] = new StatementUse(
                hash('xxh128', $sql),
                $executions,
                $executions * 9e5,
                $executions * 1e6,
                $reader->read($sql, 'farm') ?? self::fail($sql),
                $sql,
                'boards',
                'farm',
            );
        }

        return new Workload($statements);
    }
}
