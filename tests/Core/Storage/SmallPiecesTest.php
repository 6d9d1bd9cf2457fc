<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Encodings\EncodingTrial;
use Fulcrion\Core\Storage\Encodings\LabResult;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\HouseRules;
use Fulcrion\Core\Storage\LayoutTrial;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use PHPUnit\Framework\TestCase;

/**
 * What is said in one line each and is easily got wrong.
 */
final class SmallPiecesTest extends TestCase
{
    public function test_a_sum_over_statements_counts_each_of_them_as_often_as_it_runs(): void
    {
        $table = Tables::of([[0, 9]]);
        $use = static fn (string $table, string ...$columns): TableUse => new TableUse($table, [], [], [], [], array_values($columns));
        $case = new TableCase($table, new Estate(['s.t' => $table], new Workload([
            new StatementUse('x', 3.0, 0.0, 0.0, [$use('s.t', 'a'), $use('s.t', 'b'), $use('s.o', 'a')]),
            new StatementUse('y', 5.0, 0.0, 0.0, [$use('s.t', 'a'), $use('s.t')]),
        ]), new ClusterRates(1.0, 0.1, 0.1), 0), null);
        self::assertSame(3.0 * 7 + 3.0 * 7 + 5.0 * 7, $case->sum(static fn (): float => 7.0));
        self::assertSame(['x' => 42.0, 'y' => 35.0], $case->byStatement(static fn (): float => 7.0));
    }

    public function test_filters_joins_and_groups_together_make_a_column_one_that_needs_statistics(): void
    {
        $table = Tables::of([[0, 9]]);
        $estate = static fn (float $filters, float $groups): Estate => new Estate(['s.t' => $table], new Workload([
            new StatementUse('x', $filters, 0.0, 0.0, [new TableUse('s.t', [Predicate::range('a', 1, 2)], [], [], [], ['a'])]),
            new StatementUse('y', $groups, 0.0, 0.0, [new TableUse('s.t', [], [], [], ['a'], ['a'])]),
        ]), new ClusterRates(1.0, 0.1, 0.1), 0);
        $found = static fn (float $filters, float $groups): bool => in_array('missing-statistics', array_map(
            static fn ($one): string => $one->rule,
            HouseRules::check(new TableCase($table, $estate($filters, $groups), null), ['missing-statistics' => ['executions' => 50.0]]),
        ), true);
        self::assertSame([true, true, true, false], [$found(30.0, 20.0), $found(50.0, 0.0), $found(0.0, 50.0), $found(30.0, 19.9)]);
    }

    public function test_a_name_with_a_dot_is_the_name_of_a_table(): void
    {
        $layout = new TableLayout('farm.pick.old', new TableDefinition([], Distribution::even()), 1, []);
        self::assertSame('farm."pick.old"', $layout->path());
    }

    public function test_one_value_is_a_span_of_one(): void
    {
        self::assertNull(Predicate::oneOf('a', [7])->values);
        self::assertSame([3, 7], Predicate::oneOf('a', [7, 3])->values);
        self::assertSame([3, 7], [Predicate::oneOf('a', [7, 3])->low, Predicate::oneOf('a', [7, 3])->high]);
    }

    public function test_bounds_of_a_trial_hold_texts_in_the_order_of_their_bytes_and_count_what_is_missing(): void
    {
        $sample = new Sample(['word' => ['b', null, 'a', 'ä', 'B', null]], 6);
        $definition = new TableDefinition([new Column('word', ColumnType::of(TypeKind::Text))], Distribution::even(), null, [], 6);
        $index = LayoutTrial::index($sample, $definition, 1, ['word']);
        // One chunk from "B" to "ä": what lies outside is skipped.
        foreach (['B' => 1.0, 'a' => 1.0, 'ä' => 1.0, 'A' => 0.0, 'ö' => 0.0] as $word => $share) {
            self::assertSame($share, $index->share([Predicate::range('word', $word, $word)]), $word);
        }
    }

    public function test_whoever_wants_one_column_of_rows_reads_all_of_them(): void
    {
        $trial = static fn (string $column, int $bytes, int $readNs): EncodingTrial => new EncodingTrial(
            $column, $column === '' ? 'rows' : 'plain', 'none', 'as it comes', [$bytes], 10, $readNs,
        );
        $result = new LabResult([10], ['as it comes' => []], [], [$trial('a', 100, 7), $trial('b', 300, 11), $trial('', 500, 40)]);
        $work = [];
        foreach ($result->variants(['a' => 0.5]) as $variant) {
            $work[$variant->policy] ??= $variant->readWorkNs;
        }
        // Of columns what is asked for as often as it is; of rows everything.
        self::assertContains(0.35, $work);
        self::assertContains(4.0, $work);
        foreach ($result->variants([]) as $variant) {
            self::assertContains($variant->readWorkNs, [1.8, 4.0]);
        }
    }
}
