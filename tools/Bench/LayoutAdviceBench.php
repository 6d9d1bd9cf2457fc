<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Full advice on a table of 20,000 chunks and a workload of 2,000 predicates, no two alike.
 */
final class LayoutAdviceBench implements Measurement
{
    private const CHUNKS = 20_000;

    private const STATEMENTS = 1000;

    private const DAY_US = 86_400_000_000;

    public function name(): string
    {
        return 'layout-advice';
    }

    public function run(Closure $say): iterable
    {
        $random = new Randomizer(new Mt19937(46));
        $say('making the table');
        $kinds = ['temperature', 'humidity', 'co2', 'light', 'soil_moisture'];
        $columns = [
            new Column('bay_id', ColumnType::of(TypeKind::Bigint), false),
            new Column('kind', ColumnType::of(TypeKind::Text), false),
            new Column('read_at', ColumnType::of(TypeKind::Timestamp), false),
            new Column('value', ColumnType::of(TypeKind::Double)),
        ];
        $chunks = [];
        for ($i = 0; $i < self::CHUNKS; $i++) {
            $at = intdiv($i * 28 * self::DAY_US, self::CHUNKS);
            $chunks[] = new Chunk("c{$i}", $i % 12, gmdate('Y-m', intdiv($at, 1_000_000)), 300, 4200, [
                new ZoneMap($random->getInt(1, 5), $random->getInt(180, 184), 0, 300, 500),
                new ZoneMap('co2', 'temperature', 0, 300, 400),
                new ZoneMap(max(0, $at - $random->getInt(self::DAY_US, 3 * self::DAY_US)), $at, 0, 300, 1500),
                new ZoneMap(0.0, 1000.0, 1, 300, 1200),
            ]);
        }
        $table = new TableLayout(
            'field.reading',
            new TableDefinition($columns, Distribution::even(), new Partitioning('read_at', 'month')),
            12,
            $chunks,
            1000,
        );
        $statements = [];
        for ($i = 0; $i < self::STATEMENTS; $i++) {
            $from = $random->getInt(0, 27 * self::DAY_US);
            $predicates = [
                Predicate::range('read_at', $from, $random->getInt(0, 2) === 0 ? null : $from + $random->getInt(1, 14) * self::DAY_US),
                $i % 2 === 0
                    ? Predicate::oneOf('kind', [$kinds[$random->getInt(0, 4)]])
                    : Predicate::oneOf('bay_id', [$random->getInt(1, 184), $random->getInt(1, 184)]),
            ];
            $statements[] = new StatementUse(hash('xxh128', (string) $i), $random->getInt(1, 2000), 1e9, 1e12, [
                new TableUse($table->name, $predicates, [], [], ['bay_id'], ['bay_id', 'kind', 'read_at', 'value']),
            ]);
        }
        $sample = ['bay_id' => [], 'kind' => [], 'read_at' => [], 'value' => []];
        for ($i = 0; $i < 20_000; $i++) {
            $sample['bay_id'][] = $random->getInt(1, 184);
            $sample['kind'][] = $kinds[$random->getInt(0, 4)];
            $sample['read_at'][] = max(0, intdiv($i * 28 * self::DAY_US, 20_000) - $random->getInt(0, 3 * self::DAY_US));
            $sample['value'][] = $random->getInt(0, 1000) / 10;
        }
        $spread = ColumnSpread::of('bay_id', array_count_values($sample['bay_id']), static fn (int|string $key): int => (int) $key, 12);
        $seconds = [];
        memory_reset_peak_usage();
        for ($run = 0; $run < 3; $run++) {
            $say('advising, run '.($run + 1).' of 3');
            $start = hrtime(true);
            // An estate of its own each time: nothing is known from the run before.
            (new FullAdvice(
                new Estate([$table->name => $table], new Workload($statements), new ClusterRates(0.00625, 0.0005, 0.0005), 0),
            ))->of($table, new Sample($sample, self::CHUNKS * 300), [$spread]);
            $seconds[] = (hrtime(true) - $start) / 1e9;
        }
        sort($seconds);
        yield BenchFigure::atMost(
            'full advice, '.self::CHUNKS.' chunks and '. 2 * self::STATEMENTS.' predicates',
            $seconds[1],
            3.0,
            's',
        );
        yield BenchFigure::atMost('most memory of the process', memory_get_peak_usage() / 1_048_576, 256, 'MiB');
    }
}
