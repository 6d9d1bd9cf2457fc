<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\LayoutStatistics;
use Fulcrion\Core\Storage\Rollups\Choice;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Tools\Answers\SmallLattices;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * Choosing rollups for 400 statements over twelve dimensions, and how near the choice comes to the best there is.
 */
final class RollupChoiceBench implements Measurement
{
    private const STATEMENTS = 400;

    private const LATTICES = 300;

    private const DAY_US = 86_400_000_000;

    public function name(): string
    {
        return 'rollup-choice';
    }

    public function run(Closure $say): iterable
    {
        $random = new Randomizer(new Mt19937(11));
        $say('writing '.self::STATEMENTS.' statements');
        $columns = [new Column('at', ColumnType::of(TypeKind::Timestamp)), new Column('value', ColumnType::of(TypeKind::Double))];
        $statistics = [];
        for ($i = 1; $i < 12; $i++) {
            $columns[] = new Column("d{$i}", ColumnType::of(TypeKind::Bigint));
            $statistics["d{$i}"] = ['distinct' => 2 + $i * $i * 3, 'nullShare' => 0.0];
        }
        $chunks = [];
        for ($c = 0; $c < 120; $c++) {
            $zones = array_map(
                static fn (Column $column, int $i): ZoneMap => $i === 0
                    ? new ZoneMap($c * self::DAY_US, ($c + 1) * self::DAY_US, 0, 50_000, 200_000)
                    : new ZoneMap(0, 400, 0, 50_000, 100_000),
                $columns,
                array_keys($columns),
            );
            $chunks[] = new Chunk("c{$c}", $c % 12, '', 50_000, 1_400_000, $zones);
        }
        $table = new TableLayout(
            's.fact',
            new TableDefinition($columns, Distribution::even()),
            12,
            $chunks,
            1000,
            statistics: new LayoutStatistics($statistics, 0),
        );
        $sample = ['at' => [], 'value' => []];
        for ($row = 0; $row < 4000; $row++) {
            $sample['at'][] = $random->getInt(0, 120 * 86_400) * 1_000_000;
            $sample['value'][] = $row / 3;
            for ($i = 1; $i < 12; $i++) {
                $sample["d{$i}"][] = $random->getInt(0, 1 + $i * $i * 3);
            }
        }
        $types = array_combine(
            array_map(static fn (Column $c): string => $c->name, $columns),
            array_map(static fn (Column $c): ColumnType => $c->type, $columns),
        );
        $reader = new UseReader(['s.fact' => $types]);
        $statements = [];
        for ($n = 0; $n < self::STATEMENTS; $n++) {
            $groups = array_map(
                static fn (int $i): string => "d{$i}",
                (array) $random->pickArrayKeys(array_fill(1, 11, true), $random->getInt(1, 3)),
            );
            $unit = ['hour', 'day', 'day', 'week', 'month'][$random->getInt(0, 4)];
            $groups[] = "date_trunc('{$unit}', at)";
            $from = gmdate('Y-m-d', $random->getInt(0, 110) * 86_400);
            $sql =
                'SELECT '.
                implode(', ', $groups).
                ', '.
                ['sum(value)', 'avg(value)', 'max(value), count(*)'][$random->getInt(0, 2)].
                " FROM s.fact WHERE at >= date '{$from}'".
                ($random->getInt(0, 1) === 1 ? ' AND d'.$random->getInt(1, 11).' = 3' : '').
                ' GROUP BY '.
                implode(', ', $groups);
            $statements[] = new StatementUse(
                hash('xxh128', $sql.$n),
                (float) $random->getInt(5, 2000),
                1e9,
                0.0,
                $reader->read($sql, 's') ?? [],
                $sql,
                '',
                's',
            );
        }
        $estate = new Estate(['s.fact' => $table], new Workload($statements), new ClusterRates(3.0, 0.5, 0.8), 0);
        $say('choosing');
        $seconds = [];
        $advisor = new RollupAdvisor($estate);
        for ($i = 0; $i < 3; $i++) {
            $start = hrtime(true);
            $advice = $advisor->of($table, new Sample($sample, $table->rows()), 0.3 * $table->bytes());
            $seconds[] = (hrtime(true) - $start) / 1e9;
        }
        sort($seconds);
        $advice ??= throw new RuntimeException('Nothing can be advised.');
        yield BenchFigure::of('candidates', count($advice->candidates), 'rollups');
        yield BenchFigure::of('chosen', count($advice->choice->chosen), 'rollups');
        yield BenchFigure::of('of the time they take saved', (100 * $advice->choice->savedUs()) / max(1.0, $advice->nowUs()), '%');
        yield BenchFigure::atMost('time to read the statements and choose', $seconds[1], 2.0, 's');
        $say('small lattices, every set tried');
        $shares = [];
        foreach (SmallLattices::all(self::LATTICES, 12) as [$base, $weights, $candidates, $budget]) {
            $best = SmallLattices::best($base, $weights, $candidates, $budget);
            if ($best > 0) {
                $shares[] = Choice::of($base, $weights, $candidates, $budget)->savedUs() / $best;
            }
        }
        sort($shares);
        yield BenchFigure::of('lattices', count($shares), 'lattices');
        yield BenchFigure::of('worst share of the best benefit', 100 * $shares[0], '%');
        yield BenchFigure::of('median share', 100 * Spread::median($shares), '%');
        yield BenchFigure::atLeast('mean share of the best benefit', (100 * array_sum($shares)) / count($shares), 90.0, '%');
    }
}
