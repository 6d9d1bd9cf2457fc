<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\ParquetWriter;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\Encodings\RowFormat;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FolderLayout;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\LayoutStatistics;
use Fulcrion\Core\Storage\LayoutUses;
use Fulcrion\Core\Storage\LiteralValue;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Lookups\LookupProposal;
use Fulcrion\Core\Storage\PartitionAdvisor;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Reordering;
use Fulcrion\Core\Storage\Rollups\AggregateUse;
use Fulcrion\Core\Storage\Rollups\Dimension;
use Fulcrion\Core\Storage\Rollups\Lattice;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Rollups\RollupProposal;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Core\Text\Quantity;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What advisers say in figures: worked by hand where that can be done, and the same whatever things are called.
 */
final class AdviserFiguresTest extends TestCase
{
    public function test_other_names_and_another_order_of_statements_change_nothing(): void
    {
        for ($seed = 1; $seed <= 12; $seed++) {
            $plain = self::advice($seed, ['a', 'b'], false);
            $names = self::advice($seed, ['x', 'y'], false);
            $order = self::advice($seed, ['a', 'b'], true);
            self::assertSame(self::figures($plain), self::figures($order), "world {$seed}: statements in another order");
            self::assertSame(
                self::figures($plain),
                preg_replace(['~\bx\b~', '~\by\b~'], ['a', 'b'], self::figures($names)),
                "world {$seed}: columns with other names",
            );
        }
    }

    public function test_twice_the_executions_save_twice_as_much(): void
    {
        $worth = 0;
        for ($seed = 1; $seed <= 12; $seed++) {
            $once = self::byKind(self::advice($seed, ['a', 'b'], false));
            $twice = self::byKind(self::advice($seed, ['a', 'b'], false, 2.0));
            self::assertSame(array_keys($once), array_keys($twice), "world {$seed}");
            foreach ($once as $kind => $advice) {
                self::assertSame($advice->advice, $twice[$kind]->advice, "world {$seed}");
                self::assertEqualsWithDelta(2 * $advice->savedUs, $twice[$kind]->savedUs, 1e-6 * abs($advice->savedUs) + 1e-6);
                self::assertEqualsWithDelta(2 * $advice->savedBytes, $twice[$kind]->savedBytes, 1e-6 * abs($advice->savedBytes) + 1e-6);
                self::assertSame([$advice->costUs, $advice->costBytes], [$twice[$kind]->costUs, $twice[$kind]->costBytes]);
                $worth += $advice->worthIt ? 1 : 0;
            }
        }
        self::assertGreaterThan(8, $worth);
    }

    public function test_partitions_are_told_with_what_is_read_and_how_large_they_are(): void
    {
        // 8,000 rows, b is one of ten; written in chunks of 2,000 on one node.
        $sample = new Sample(
            ['a' => array_map(static fn (int $i): int => ($i * 7) % 1000, range(0, 7_999)), 'b' => array_map(
                static fn (int $i): int => $i % 10,
                range(0, 7_999),
            )],
            8_000,
        );
        $table = Tables::of(array_fill(0, 4, [0, 999, 2_000]), 2_000, [], null, null, 1);
        $advisor = new PartitionAdvisor(Tables::estate($table, [Tables::reads([Predicate::range('b', 3, 3)])]));
        $tried = $advisor->tried($table, $sample);
        $by = array_combine(
            array_map(static fn (array $one): string => $one['partitioning']?->describe() ?? 'none', $tried),
            $tried,
        );
        self::assertSame([1.0, 1, 8_000, false], [
            $by['none']['share'], $by['none']['partitions'], $by['none']['rowsEach'], $by['none']['tooMany'],
        ]);
        self::assertEqualsWithDelta(0.1, $by['by value of b']['share'], 1e-9);
        self::assertSame([10, 800, false], [
            $by['by value of b']['partitions'], $by['by value of b']['rowsEach'], $by['by value of b']['tooMany'],
        ]);
        self::assertArrayNotHasKey('by value of a', $by, 'nothing filters by it');
        $advice = $advisor->advise($table, $sample);
        self::assertSame('Cut s.t by value of b', $advice?->advice);
        self::assertTrue($advice->worthIt);
        self::assertContains(['by value of b', '10% of the bytes read; 10 of 800 rows'], $advice->figures);
        self::assertContains(['no partitions', '100% of the bytes read; 1 of '.Quantity::count(8_000).' rows'], $advice->figures);
        self::assertSame(['Each load writes one file for each partition it touches.'], array_slice($advice->worse, -1));
        self::assertSame((float) $table->bytes(), $advice->costBytes);

        // On five nodes each of the ten partitions has 160 rows a node, below a quarter of 2,000.
        $five = Tables::of(array_fill(0, 5, [0, 999, 1_600]), 2_000, [], null, null, 5);
        $tried = (new PartitionAdvisor(Tables::estate($five, [Tables::reads([Predicate::range('b', 3, 3)])])))->tried($five, $sample);
        $last = $tried[count($tried) - 1];
        self::assertSame(['by value of b', true], [$last['partitioning']?->describe(), $last['tooMany']], 'too fine ones come last');
        // A copy has each partition once.
        $copy = Tables::of(array_fill(0, 4, [0, 999, 2_000]), 2_000, [], Distribution::copy(), null, 5);
        $tried = (new PartitionAdvisor(Tables::estate($copy, [Tables::reads([Predicate::range('b', 3, 3)])])))->tried($copy, $sample);
        self::assertFalse($tried[0]['tooMany']);
        self::assertSame('by value of b', $tried[0]['partitioning']?->describe());
    }

    public function test_columns_with_hardly_a_repeat_are_no_partitions(): void
    {
        $table = Tables::of(array_fill(0, 4, [0, 999, 200]), 200, [], null, null, 1);
        $tried = static fn (int $distinct): array => array_map(
            static fn (array $one): string => $one['partitioning']?->describe() ?? 'none',
            (new PartitionAdvisor(Tables::estate($table, [Tables::reads([Predicate::range('a', 3, 3)])])))->tried(
                $table,
                new Sample(
                    ['a' => array_map(static fn (int $i): int => $i % $distinct, range(0, 799)), 'b' => array_fill(0, 800, 1)],
                    800,
                ),
            ),
        );
        self::assertContains('by value of a', $tried(200), 'each value four times');
        self::assertNotContains('by value of a', $tried(201));
    }

    public function test_a_distribution_is_told_with_skew_joins_and_what_goes_between_nodes(): void
    {
        $sample = new Sample(['a' => range(0, 399), 'b' => array_map(static fn (int $i): int => $i % 10, range(0, 399))], 400);
        $table = Tables::of([[0, 399, 100, 0], [0, 399, 100, 1], [0, 399, 100, 2], [0, 399, 100, 3]]);
        $other = new TableLayout('s.o', $table->definition->laidOut(Distribution::hash('a')), 4, $table->chunks);
        $mine = new TableUse('s.t', [], [], [new JoinUse('a', 's.o', 'a')], [], ['a', 'b']);
        $theirs = new TableUse('s.o', [], [], [new JoinUse('a', 's.t', 'a')], [], ['a']);
        $estate = new Estate(
            ['s.t' => $table, 's.o' => $other],
            new Workload([new StatementUse(str_repeat('a', 32), 5.0, 0.0, 0.0, [$mine, $theirs])]),
            new ClusterRates(1.0, 0.1, 1.0),
            0,
        );
        $advisor = new DistributionAdvisor($estate);
        self::assertSame(['a'], $advisor->columns($table));
        $spread = ColumnSpread::of('a', array_fill_keys(range(0, 399), 1), static fn (int|string $key): int => (int) $key, 4);
        $heavy = new ColumnSpread('b', 400, 3, [[7, 300], [8, 60], [9, 40], [1, 0]], [300, 60, 40, 0]);
        $advice = $advisor->advise($table, [$spread, $heavy], $sample);
        self::assertSame('Place s.t by a instead of evenly', $advice?->advice);
        $figures = array_column($advice->figures, 1, 0);
        self::assertStringContainsString('100% of joins local, 0 B a week between nodes', $figures['by a']);
        // 400 rows of 16 bytes, of which three in four move, five times a week.
        self::assertStringContainsString('skew 1, 0% of joins local, 23.4 KiB a week between nodes', $figures['evenly']);
        self::assertSame('75%, 15%, 10% in the most frequent of 3 distinct values', $figures['rows by b'], 'shares, and no value');
        self::assertEqualsWithDelta(5 * 400 * 16 * 0.75, $advice->savedBytes, 1e-6);
        self::assertSame('by a', $advice->definition?->distribution->describe());
        self::assertNull($advisor->advise(Tables::of([[0, 9]], nodes: 1), [], $sample), 'on one node there is nothing to spread');
        self::assertNull($advisor->advise(Tables::of([]), [], $sample));
        self::assertNull($advisor->advise($table, [], new Sample(['a' => [], 'b' => []], 400)));
    }

    public function test_columns_worth_counting_are_those_joined_and_grouped_by(): void
    {
        $use = self::joined(...);
        $columns = static function (TableLayout $table, TableUse ...$uses): array {
            return (new DistributionAdvisor(Tables::estate($table, array_values($uses))))->columns($table);
        };
        $even = Tables::of([[0, 9]]);
        $join = new JoinUse('b', 's.o', 'x');
        $cast = new JoinUse('a', 's.o', 'x', true);
        self::assertSame(['b'], $columns($even, $use([$join], [])));
        self::assertSame(['b', 'a'], $columns($even, $use([$join], []), $use([], ['a']), $use([], ['a'])), 'a join weighs four groups');
        self::assertSame([], $columns($even, $use([$cast], [])), 'what is cast on the way does not hash alike');
        self::assertSame(['a', 'b'], $columns(Tables::of([[0, 9]], distribution: Distribution::hash('a')), $use([$join], [])));
        self::assertSame(['b'], $columns(Tables::of([[0, 9]], distribution: Distribution::hash('a', 'b')), $use([$join], [])));
    }

    public function test_compaction_is_advised_from_a_fifth_of_the_chunks_and_eight_of_them(): void
    {
        $advise = static function (int $small, int $large): ?Advice {
            $spans = [...array_fill(0, $small, [0, 999, 5, 0]), ...array_fill(0, $large, [0, 999, 100, 0])];
            $table = Tables::of($spans, 100, [], null, null, 1);
            $rows = $table->rows();
            $sample = new Sample([
                'a' => array_map(static fn (int $i): int => ($i * 37) % 1000, range(0, $rows - 1)),
                'b' => array_fill(0, $rows, 1),
            ], $rows);
            $estate = new Estate(
                ['s.t' => $table],
                new Workload([new StatementUse('x', 100.0, 0.0, 0.0, [Tables::reads([])])]),
                // Opening a chunk costs as much as reading a thousand rows.
                new ClusterRates(1.0, 0.0, 0.0, 1_000.0),
                0,
            );

            return self::byKind((new FullAdvice($estate))->of($table, $sample, []))['compaction'] ?? null;
        };
        // 20 small ones go into one: 19 of 40 chunks are saved.
        $advice = $advise(20, 20);
        self::assertTrue($advice?->worthIt);
        self::assertSame('Compact s.t from 40 to 21 chunks', $advice->advice);
        self::assertSame(['chunks', '40, 50% of them below a quarter of 100 rows'], $advice->figures[0]);
        self::assertSame(['rewritten', '20 chunks with 0.977 KiB; the others are not touched'], $advice->figures[1]);
        self::assertSame(['MAINTAIN TABLE s.t WITH (action = compact)'], $advice->statements);
        self::assertTrue($advise(9, 20)?->worthIt, 'eight saved of 29');
        self::assertFalse($advise(8, 20)?->worthIt, 'seven are too few');
        self::assertFalse($advise(9, 31)?->worthIt, 'eight of 40 are a fifth and no more');
        self::assertSame('Keep the chunks as they are', $advise(8, 20)->advice);
    }

    public function test_bins_are_filled_in_the_order_of_the_key(): void
    {
        $table = Tables::of([[50, 59, 20], [10, 19, 20], [30, 39, 20], [70, 79, 20], [20, 29, 24]], 64, ['a']);
        self::assertSame([], Compaction::of($table)->bins, 'twenty of 64 are no less than a quarter');
        $table = Tables::of([[50, 59, 20], [10, 19, 20], [30, 39, 20], [70, 79, 20], [20, 29, 24]], 100, ['a']);
        $plan = Compaction::of($table);
        self::assertSame([[1, 4, 2, 0]], $plan->bins, 'filled up to 84 of 100, and one left alone stays');
        self::assertSame([4, 1, 84, 840, 3], [
            $plan->chunksRead, $plan->chunksAfter, $plan->rowsRewritten, $plan->bytesRewritten, $plan->chunksSaved(),
        ]);
        $huge = Compaction::of(Tables::of([[0, 9, 200], [0, 9, 201]], 100));
        self::assertSame([[[1]], 1, 3], [$huge->bins, $huge->chunksRead, $huge->chunksAfter], 'twice the target is not huge yet');
    }

    public function test_runs_out_of_order_are_cut_where_they_become_long(): void
    {
        $spans = [[0, 20, 40], [10, 30, 40], [25, 40, 40], [35, 50, 40], [60, 70, 40]];
        $whole = Reordering::of(Tables::of($spans, 100, ['a']));
        self::assertSame([[[0, 1, 2, 3]], 4, 1_600], [$whole->groups, $whole->chunks, $whole->bytes]);
        self::assertSame([[0, 1], [2, 3]], Reordering::of(Tables::of($spans, 100, ['a']), 80)->groups);
        self::assertSame([], Reordering::of(Tables::of($spans, 100, ['a']), 79)->groups, 'no two fit');
        $table = Tables::of([[0, 99, 90], [0, 99, 10], [5, 99, 20], [7, 99, 30]], 100, ['a', 'b']);
        $curve = new TableLayout(
            's.t',
            $table->definition->laidOut(clustering: new \Fulcrion\Core\Storage\Clustering(['a', 'b'], 'hilbert')),
            4,
            $table->chunks,
        );
        self::assertSame([[1, 2]], Reordering::of($curve)->groups, 'along a curve only small chunks are new');
    }

    /**
     * @return iterable<string, array{string, string, int|float|string|bool|null}>
     */
    public static function literals(): iterable
    {
        yield 'a number' => ['7', 'bigint', 7];
        yield 'below 0' => ['-7', 'bigint', -7];
        yield 'digits of a text' => ["'7'", 'bigint', 7];
        yield 'a fraction of whole numbers' => ['7.5', 'bigint', 7.5];
        yield 'more than fits' => ['99999999999999999999', 'bigint', 1e20];
        yield 'a word' => ["'x'", 'bigint', null];
        yield 'a fraction' => ['7.5', 'double', 7.5];
        yield 'cents' => ['7.5', 'decimal', 750.0];
        yield 'a text' => ["'x'", 'text', 'x'];
        yield 'a number beside a text' => ['7', 'text', null];
        yield 'a truth' => ['TRUE', 'boolean', true];
        yield 'a truth beside a number' => ['TRUE', 'bigint', null];
        yield 'a number beside a truth' => ['1', 'boolean', null];
        yield 'a day' => ["DATE '1970-01-11'", 'date', 10];
        yield 'a day as text' => ["'1970-01-11'", 'date', 10];
        yield 'a day before 1970' => ["DATE '1969-12-31'", 'date', -1];
        yield 'a moment beside a day' => ["TIMESTAMP '1970-01-11 23:00:00'", 'date', 10];
        yield 'a moment before 1970 beside a day' => ["TIMESTAMP '1969-12-31 23:00:00'", 'date', -1];
        yield 'a moment' => ["TIMESTAMP '1970-01-01 00:00:01.5'", 'timestamp', 1_500_000];
        yield 'a day beside a moment' => ["DATE '1970-01-02'", 'timestamp', 86_400_000_000];
        yield 'no day' => ["'soon'", 'date', null];
        yield 'a day that is not there' => ["'1970-13-41'", 'date', null];
        yield 'cast' => ["CAST('7' AS bigint)", 'bigint', 7];
        yield 'a column' => ['c', 'bigint', null];
        yield 'a sum' => ['1 + 1', 'bigint', null];
        yield 'the sign of a text' => ["-'x'", 'text', null];
        yield 'nothing' => ['NULL', 'bigint', null];
    }

    #[DataProvider('literals')]
    public function test_a_literal_has_a_value_beside_a_column(string $sql, string $type, int|float|string|bool|null $value): void
    {
        $column = $type === 'decimal' ? ColumnType::decimal(8, 2) : ColumnType::of(TypeKind::from($type));
        self::assertSame($value, LiteralValue::of((new Parser())->expression($sql), $column));
    }

    public function test_rows_with_more_than_64_columns_come_back(): void
    {
        $columns = $values = [];
        for ($i = 0; $i < 130; $i++) {
            $columns[] = new Column("c{$i}", ColumnType::of(TypeKind::Bigint));
            $values["c{$i}"] = [$i % 3 === 0 ? null : $i, $i % 5 === 0 ? null : -$i];
        }
        $place = new Place($values);
        $format = new RowFormat($columns);
        self::assertEquals($place, $format->decode($format->encode($place)));
        $nulls = array_sum(array_map(static fn (array $two): int => count(array_filter($two, is_null(...))), $values));
        self::assertSame(2 * 3 * 8 + 8 * (260 - $nulls), strlen($format->encode($place)), 'three words of NULL bits a row');
    }

    public function test_a_folder_of_files_is_a_table(): void
    {
        $folder = new FolderLayout();
        $add = static fn (string $path, array $ids, array $names): ?string => $folder->add(
            $path,
            1_000,
            ParquetReader::open(new StringSource((new ParquetWriter())->write(
                [new Column('id', ColumnType::of(TypeKind::Bigint)), new Column('name', ColumnType::of(TypeKind::Text))],
                [array_values($ids), array_values($names)],
            ))),
        );
        self::assertNull($add('year=2025/site=north%20bay/a.parquet', [5, 3, null], ['b', 'a', 'c']));
        self::assertNull($add('year=2026/site=south/b.parquet', [9, 12], ['z', null]));
        self::assertNull($add('year=2026/c.parquet', [null, null], [null, null]));
        self::assertSame(
            'its column id is text, in other files bigint',
            $folder->add('d.parquet', 10, ParquetReader::open(new StringSource((new ParquetWriter())->write(
                [new Column('id', ColumnType::of(TypeKind::Text))],
                [['x']],
            )))),
        );
        $layout = $folder->layout('lake.pick');
        self::assertSame(
            ['id bigint', 'name text', 'year bigint', 'site text'],
            array_map(static fn (Column $column): string => "{$column->name} {$column->type}", $layout->definition->columns),
        );
        self::assertSame([7, 3_000, 'files'], [$layout->rows(), $layout->bytes(), $layout->engine]);
        self::assertSame(256 * 1024 ** 2, $layout->targetBytes);
        self::assertSame((int) round(256 * 1024 ** 2 * 7 / 3_000), $layout->definition->chunkRows, 'so many rows of what one takes');
        self::assertSame('by value of year', $layout->definition->partitioning?->describe());
        self::assertSame(
            ['year=2025/site=north bay', 'year=2026', 'year=2026/site=south'],
            array_map(strval(...), array_keys($layout->partitions())),
        );
        $bounds = array_map(
            static fn (Chunk $chunk): array => array_map(
                static fn (ZoneMap $zone): array => [$zone->min, $zone->max, $zone->nullCount],
                $chunk->zones,
            ),
            $layout->chunks,
        );
        self::assertSame([[3, 5, 1], ['a', 'c', 0], [2025, 2025, 0], ['north bay', 'north bay', 0]], $bounds[0]);
        self::assertSame([[9, 12, 0], ['z', 'z', 1], [2026, 2026, 0], ['south', 'south', 0]], $bounds[1]);
        self::assertSame([null, null, 2], $bounds[2][3], 'a key the folder does not have is NULL in all rows');
        $imagined = FolderLayout::imagined($layout, 70);
        self::assertSame([70, 7], [$imagined->rows(), $imagined->of]);
        $ids = array_slice($imagined->column('id'), 0, 30);
        self::assertSame([3, 5], [min($ids), max($ids)], 'between the bounds of its file, both of them reached');
        self::assertSame(['a', 'c'], array_values(array_unique(array_slice($imagined->column('name'), 0, 30))));
        self::assertSame([null], array_values(array_unique(array_slice($imagined->column('id'), 50))));
    }

    public function test_keys_of_folders_that_are_days_are_days(): void
    {
        $folder = new FolderLayout();
        $file = (new ParquetWriter())->write([new Column('id', ColumnType::of(TypeKind::Bigint))], [[1]]);
        foreach (['1970-01-03', '1970-01-05'] as $day) {
            $folder->add("day={$day}/a.parquet", 10, ParquetReader::open(new StringSource($file)));
        }
        $layout = $folder->layout('lake.d');
        self::assertSame('date', (string) $layout->definition->column('day')?->type);
        self::assertSame(
            [2, 4],
            array_map(static fn (Chunk $chunk): int|float|string|bool|null => $chunk->zones[1]->min, $layout->chunks),
        );
    }

    public function test_a_lookup_saves_reading_the_dimension_and_what_its_filter_skips(): void
    {
        [$proposal, $dimension] = self::lookup([Predicate::range('name', 'x', 'x')]);
        self::assertInstanceOf(LookupProposal::class, $proposal);
        self::assertSame(['id', ['id', 'name']], [$proposal->key, $proposal->columns]);
        self::assertSame([10.0, 1], [$proposal->executions, $proposal->filtering]);
        // The dimension: 100 rows by 1 us and 2,000 bytes by 0.1 us, on one node. One name of 20 is kept; a chunk of the other
        // table spans a tenth of the keys: of its 1,000 rows and 5,000 bytes 0.15 are read instead of all.
        self::assertEqualsWithDelta(10 * (300 + (1 - 0.15) * (1_000 + 500)), $proposal->savedUs, 1e-6);
        self::assertEqualsWithDelta(10 * (2_000 + 0.85 * 5_000), $proposal->savedBytes, 1e-6);
        self::assertSame((16.0 + 8 + 16) * 100, $proposal->bytes, 'eight bytes a number, sixteen a text, sixteen for its place');
        self::assertSame('s.d_by_id', $proposal->name());
        self::assertSame('CREATE OR REPLACE LOOKUP s.d_by_id WITH (key = id) AS SELECT id, name FROM s.d', $proposal->create());
        self::assertSame('DROP LOOKUP IF EXISTS s.d_by_id', $proposal->drop());
        self::assertSame($dimension, $proposal->table);
        // Five of twenty names; a range of names keeps three in ten; without a filter the other table is read as before.
        $saved = static fn (Predicate ...$predicates): float => self::lookup(array_values($predicates))[0]->savedUs ?? 0.0;
        self::assertEqualsWithDelta(
            10 * (300 + (1 - 0.35) * 1_500),
            $saved(Predicate::oneOf('name', ['a', 'b', 'c', 'd', 'e'])),
            1e-6,
        );
        self::assertEqualsWithDelta(10 * (300 + (1 - 0.4) * 1_500), $saved(Predicate::range('name', 'a', 'f')), 1e-6);
        self::assertEqualsWithDelta(10 * (300 + (1 - 0.4) * 1_500), $saved(Predicate::unknown('name')), 1e-6);
        self::assertEqualsWithDelta(10 * 300, $saved(), 1e-6);
    }

    public function test_a_lookup_needs_a_key_that_tells_its_rows_apart(): void
    {
        $none = static fn (mixed ...$with): bool => self::lookup([], ...$with)[0] === null;
        self::assertFalse($none(distinct: 95));
        self::assertTrue($none(distinct: 94), 'statistics count within some percent');
        self::assertTrue($none(distinct: null), 'nothing is known');
        self::assertFalse($none(distinct: null, sample: range(1, 50)));
        self::assertTrue($none(distinct: null, sample: [...range(1, 49), 1]), 'one comes twice');
        self::assertTrue($none(there: ['id', 'name']), 'there is one already');
        self::assertFalse($none(there: ['id']), 'but not with all that is asked for');
        self::assertTrue($none(type: TypeKind::Double));
        self::assertTrue($none(joins: 2), 'joined by two keys');
        self::assertTrue($none(writes: true));
    }

    public function test_rollups_are_costed_by_their_rows_and_what_keeps_them(): void
    {
        $estate = self::readings(1);
        $table = $estate->tables['s.r'];
        $advice = (new RollupAdvisor($estate))->of($table, null, 1e9);
        self::assertSame(['1', '2'], array_map(static fn (AggregateUse $use): string => $use->statement, $advice->uses));
        // 4,000 rows by 10 us and 5,000 bytes a chunk; 7,000 bytes of each of three for the second, which begins with the last
        // moment of the second chunk.
        self::assertSame(
            [4 * (10_000.0 + 5_000.0), 3 * (10_000.0 + 7_000.0)],
            array_map(static fn (AggregateUse $use): float => $use->readUs, $advice->uses),
        );
        self::assertSame([1.0, 0.5], array_map(static fn (AggregateUse $use): float => $use->share, $advice->uses));
        $by = [];
        foreach ($advice->candidates as $candidate) {
            $by[$candidate->key()] = $candidate;
        }
        self::assertEqualsCanonicalizing(['bay', 'at@day', 'at@day,bay'], array_keys($by));
        self::assertSame(10.0, $by['bay']->rows);
        // One dimension and one measure: 2 + 6 * 2.5 bytes a row.
        self::assertSame(10 * 17.0, $by['bay']->bytes);
        self::assertSame([0 => 2_000.0 + 10 * 10.0 + 170.0], $by['bay']->costs);
        self::assertSame(29.0, $by['at@day']->rows, '28 days and the one the last moment is of');
        self::assertEqualsWithDelta([1 => 2_000.0 + 0.5 * (290.0 + 29 * 17.0)], $by['at@day']->costs, 1e-9);
        // A quarter of the table comes in a week, and is read and written into the rollup.
        self::assertEqualsWithDelta(0.25 * (4_000 * 10.0 + 40_000 + 2 * 170.0), $by['bay']->keepUs, 1e-6);
        self::assertSame(290.0, $by['at@day,bay']->rows);
        self::assertSame([0, 1], array_keys($by['at@day,bay']->costs), 'both can be put together from it');
        $proposals = $advice->proposals();
        self::assertSame(['s.r_by_bay', 's.r_by_day'], array_map(static fn (RollupProposal $one): string => $one->name, $proposals));
        self::assertSame('CREATE ROLLUP s.r_by_bay AS SELECT bay, sum(value) FROM s.r GROUP BY bay', $proposals[0]->create());
        self::assertSame('DROP ROLLUP s.r_by_bay', $proposals[0]->drop());
        self::assertSame(
            "CREATE ROLLUP s.r_by_day AS SELECT date_trunc('day', \"at\"), max(value) FROM s.r GROUP BY date_trunc('day', \"at\")",
            $proposals[1]->create(),
        );
        self::assertEqualsWithDelta(60_000 / 2_270, $proposals[0]->factor(), 1e-9);
        self::assertEqualsWithDelta(['1' => 100 * (60_000 - 2_270.0)], $proposals[0]->savings(), 1e-6);
        self::assertEqualsWithDelta(100 * (60_000 - 2_270.0) - $by['bay']->keepUs, $proposals[0]->savedUs, 1e-6);
        self::assertSame(100.0, $proposals[0]->executions());
        self::assertEqualsWithDelta(100 * 60_000 + 50 * 51_000, $advice->nowUs(), 1e-6);
        self::assertSame(['s.r_by_bay'], array_map(
            static fn (RollupProposal $one): string => $one->name,
            $advice->within(171.0)->proposals(),
        ), 'room for the small one alone');
        self::assertSame([], $advice->within(1e9, 0.0)->proposals(), 'no time to keep any');
    }

    public function test_nodes_read_and_keep_rollups_side_by_side(): void
    {
        $by = static function (Estate $estate): array {
            $found = [];
            foreach ((new RollupAdvisor($estate))->of($estate->tables['s.r'], null, 1e9)->candidates as $candidate) {
                $found[$candidate->key()] = $candidate;
            }

            return $found;
        };
        $four = $by(self::readings(4));
        self::assertEqualsWithDelta([0 => 2_000.0 + (10 * 10.0 + 170.0) / 4], $four['bay']->costs, 1e-9);
        self::assertEqualsWithDelta(0.25 * (4_000 * 10.0 + 40_000 + 2 * 170.0) / 4, $four['bay']->keepUs, 1e-6);
        // What comes in a week is all of what spans a week or less, and half of two.
        foreach ([[4, 1.0], [7, 1.0], [8, 7 / 8], [14, 0.5]] as [$days, $share]) {
            $keep = $by(self::readings(1, $days))['bay']->keepUs;
            self::assertEqualsWithDelta($share * (4_000 * 10.0 + 40_000 + 2 * 170.0), $keep, 1e-6, "{$days} days");
        }
    }

    public function test_rows_of_a_node_are_guessed_from_what_a_sample_meets(): void
    {
        $random = new Randomizer(new Mt19937(2));
        foreach ([20, 200, 900] as $groups) {
            $values = array_map(static fn (): int => $random->getInt(1, $groups), range(1, 1_000));
            $lattice = new Lattice(1e9, ['a' => 50_000.0], new Sample(['a' => $values], 1_000_000));
            self::assertEqualsWithDelta($groups, $lattice->rows([new Dimension('a')]), 0.12 * $groups, "{$groups} groups");
        }
        $few = new Lattice(1e9, ['a' => 50.0], new Sample(['a' => range(1, 99)], 1_000));
        self::assertSame(50.0, $few->rows([new Dimension('a')]), 'below a hundred rows a sample tells nothing');
        $all = new Lattice(1e9, ['a' => 5_000.0], new Sample(['a' => range(1, 200)], 1_000));
        self::assertSame(5_000.0, $all->rows([new Dimension('a')]), 'nor where each of its rows is a group of its own');
        self::assertSame(100.0, (new Lattice(1e9, []))->rows([new Dimension('unknown')]));
        self::assertSame(1.0, (new Lattice(1e9, ['a' => 0.0]))->rows([new Dimension('a')]));
        $moments = new Lattice(1e9, ['at' => 1e6, 'at@' => 7_200.0]);
        self::assertSame([7_201.0, 121.0, 3.0], [
            $moments->rows([new Dimension('at', 'second')]),
            $moments->rows([new Dimension('at', 'minute')]),
            $moments->rows([new Dimension('at', 'hour')]),
        ]);
        self::assertSame(363.0, $moments->rows([new Dimension('at', 'minute'), new Dimension('at', 'hour')]));
    }

    public function test_units_are_put_together_from_finer_ones_as_calendars_do(): void
    {
        // A week may begin in one month and end in the next; all others lie within each other.
        foreach (Dimension::UNITS as $unit => $gives) {
            foreach (Dimension::SECONDS as $other => $seconds) {
                $fits = $unit === $other ||
                    ($seconds > Dimension::SECONDS[$unit] && $unit !== 'week' && ($other !== 'week' || $seconds >= 7 * 86_400));
                self::assertSame($fits, in_array($other, $gives, true), "{$other} from {$unit}");
            }
        }
        self::assertSame(['at@day', 'day of at', 'bay', 'bay'], [
            (new Dimension('at', 'day'))->key(), (new Dimension('at', 'day'))->describe(),
            (new Dimension('bay'))->key(), (new Dimension('bay'))->describe(),
        ]);
        $of = static fn (Dimension ...$dimensions): string => implode(',', array_map(
            static fn (Dimension $d): string => $d->key(),
            Lattice::union(array_values($dimensions), []),
        ));
        [$hour, $day, $week, $month, $year] = array_map(
            static fn (string $unit): Dimension => new Dimension('at', $unit),
            ['hour', 'day', 'week', 'month', 'year'],
        );
        self::assertSame(['at@month', 'at@day', 'at@hour', 'at', 'at@week'], [
            $of($year, $month), $of($week, $year), $of($hour, $week), $of(new Dimension('at'), $day), $of($week),
        ]);
    }

    /** Readings of four weeks in a chunk each, summed by bay and by day. */
    private static function readings(int $nodes, int $days = 28): Estate
    {
        $week = intdiv($days * 86_400_000_000, 4);
        $chunks = [];
        for ($i = 0; $i < 4; $i++) {
            $chunks[] = new Chunk("c{$i}", 0, '', 1_000, 10_000, [
                new ZoneMap($i * $week, ($i + 1) * $week, 0, 1_000, 5_000),
                new ZoneMap(0, 9, 0, 1_000, 3_000),
                new ZoneMap(0.0, 9.0, 0, 1_000, 2_000),
            ]);
        }
        $table = new TableLayout(
            's.r',
            new TableDefinition(
                [
                    new Column('at', ColumnType::of(TypeKind::Timestamp)),
                    new Column('bay', ColumnType::of(TypeKind::Bigint)),
                    new Column('value', ColumnType::of(TypeKind::Double)),
                ],
                Distribution::even(),
            ),
            $nodes,
            $chunks,
            statistics: new LayoutStatistics(['bay' => ['distinct' => 10, 'nullShare' => 0.0]]),
        );
        $statement = static fn (string $id, string $sql, float $times, array $predicates, array $columns): StatementUse => new StatementUse(
            $id,
            $times,
            0.0,
            0.0,
            [new TableUse('s.r', array_values($predicates), [], [], [], array_values($columns))],
            $sql,
            schema: 's',
        );

        return new Estate(
            ['s.r' => $table],
            new Workload([
                $statement('1', 'SELECT bay, sum(value) FROM r GROUP BY bay', 100.0, [], ['bay', 'value']),
                $statement(
                    '2',
                    "SELECT date_trunc('day', at), max(value) FROM r WHERE at >= DATE '1970-01-15' GROUP BY 1",
                    50.0,
                    [Predicate::range('at', 2 * $week, null)],
                    ['at', 'value'],
                ),
                $statement('3', 'SELECT bay FROM r', 9.0, [], ['bay']),
            ]),
            new ClusterRates(10.0, 1.0, 1.0),
            0,
        );
    }

    /**
     * @param  list<JoinUse>  $joins
     * @param  list<string>  $grouped
     */
    private static function joined(array $joins, array $grouped): TableUse
    {
        return new TableUse('s.t', [], [], $joins, $grouped, ['a', 'b']);
    }

    /**
     * @param  list<Predicate>  $predicates of the dimension
     * @param  list<int>|null  $sample
     * @param  list<string>|null  $there columns of a lookup there is
     * @return array{LookupProposal|null, TableLayout}
     */
    private static function lookup(
        array $predicates,
        ?int $distinct = 100,
        ?array $sample = null,
        ?array $there = null,
        TypeKind $type = TypeKind::Bigint,
        int $joins = 1,
        bool $writes = false,
    ): array {
        $dimension = new TableLayout(
            's.d',
            new TableDefinition(
                [new Column('id', ColumnType::of($type)), new Column('name', ColumnType::of(TypeKind::Text))],
                Distribution::even(),
            ),
            1,
            [new Chunk('d', 0, '', 100, 2_000, [new ZoneMap(0, 99, 0, 100, 1_000), new ZoneMap('a', 'z', 0, 100, 1_000)])],
            statistics: new LayoutStatistics(
                ['name' => ['distinct' => 20, 'nullShare' => 0.0]] +
                    ($distinct === null ? [] : ['id' => ['distinct' => $distinct, 'nullShare' => 0.0]]),
            ),
            uses: new LayoutUses(lookups: $there === null ? [] : [['name' => 's.there', 'key' => 'id', 'columns' => $there]]),
        );
        $spans = array_map(static fn (int $i): array => [$i * 10, $i * 10 + 10, 100], range(0, 9));
        $facts = new TableLayout('s.f', Tables::of($spans, nodes: 1)->definition, 1, Tables::of($spans, nodes: 1)->chunks);
        $mine = array_map(static fn (int $i): JoinUse => new JoinUse($i === 0 ? 'id' : 'name', 's.f', 'a'), range(0, $joins - 1));
        $estate = new Estate(
            ['s.d' => $dimension, 's.f' => $facts],
            new Workload([new StatementUse('x', 10.0, 0.0, 0.0, [
                new TableUse('s.d', $predicates, [], $mine, [], ['id', 'name'], $writes),
                new TableUse('s.f', [], [], [new JoinUse('a', 's.d', 'id')], [], ['a']),
            ])]),
            new ClusterRates(1.0, 0.1, 0.0),
            0,
        );

        return [(new LookupAdvisor($estate))->of($dimension, $sample === null ? null : new Sample(['id' => $sample], 100)), $dimension];
    }

    /**
     * @param  array{string, string}  $names of the columns
     * @return list<Advice>
     */
    private static function advice(int $seed, array $names, bool $reversed, float $times = 1.0): array
    {
        $random = new Randomizer(new Mt19937($seed));
        $parted = $seed % 3 === 0;
        $chunks = $first = $second = [];
        for ($i = 0, $count = $random->getInt(20, 80); $i < $count; $i++) {
            $low = $random->getInt(0, 1) === 0 ? $i * 10 : $random->getInt(0, 900);
            $rows = $random->getInt(5, 100);
            $chunks[] = new Chunk("c{$i}", $random->getInt(0, $seed % 4), $parted ? (string) intdiv($low, 50) : '', $rows, $rows * 10, [
                new ZoneMap($low, $low + $random->getInt(0, 300), 0, $rows, $rows * 5),
                new ZoneMap(0, 9, 0, $rows, $rows * 5),
            ]);
            for ($row = 0; $row < $rows; $row++) {
                $first[] = $low + $random->getInt(0, 20);
                $second[] = $random->getInt(0, 9);
            }
        }
        [$a, $b] = $names;
        $table = new TableLayout(
            's.t',
            new TableDefinition(
                [new Column($a, ColumnType::of(TypeKind::Bigint), false), new Column($b, ColumnType::of(TypeKind::Bigint))],
                Distribution::even(),
                $parted ? new Partitioning($a, null) : null,
                $seed % 2 === 0 ? [$a] : [],
                100,
            ),
            4,
            $chunks,
        );
        $statements = [];
        for ($i = 0, $count = $random->getInt(2, 5); $i < $count; $i++) {
            $from = $random->getInt(0, 900);
            $predicates = match ($random->getInt(0, 2)) {
                0 => [],
                1 => [Predicate::range($a, $from, $from + $random->getInt(0, 400))],
                default => [Predicate::range($b, 3, 3)],
            };
            // Weights of their own, so that no two statements could change places.
            $statements[] = new StatementUse(hash('xxh128', (string) $i), $times * (100.0 + 7 * $i), $times * 1e7, 1e6, [
                new TableUse('s.t', $predicates, [], [], [], [$a, $b]),
            ]);
        }
        $estate = new Estate(
            ['s.t' => $table],
            new Workload($reversed ? array_reverse($statements) : $statements),
            new ClusterRates(1.0, 0.1, 0.1, 5.0),
            0,
        );

        return (new FullAdvice($estate))->of($table, new Sample([$a => $first, $b => $second], $table->rows()), []);
    }

    /**
     * @param  list<Advice>  $all
     */
    private static function figures(array $all): string
    {
        return (string) json_encode(array_map(
            static fn (Advice $one): array => [
                $one->kind, $one->advice, $one->worthIt, round($one->savedUs, 3), round($one->savedBytes, 3), $one->costUs,
                array_values(array_filter($one->figures, static fn (array $figure): bool => ! str_contains($figure[0], 'curve'))),
            ],
            $all,
        ), JSON_PRETTY_PRINT);
    }

    /**
     * @param  list<Advice>  $all
     * @return array<string, Advice>
     */
    private static function byKind(array $all): array
    {
        $by = [];
        foreach ($all as $one) {
            $by[$one->kind] = $one;
        }
        ksort($by);

        return $by;
    }
}
