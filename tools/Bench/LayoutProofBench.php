<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\PracticeWorld;
use Fulcrion\Tools\Demo\Repertoire;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * The heaviest statements on the readings of the climate, before and after the table is sorted and packed as advised.
 */
final class LayoutProofBench implements Measurement
{
    private const TABLE = 'field.climate_reading';

    private const NOW = 1_795_000_000;

    public function name(): string
    {
        return 'layout-proof';
    }

    public function run(Closure $say): iterable
    {
        $root = Scratch::folder().'/layout-proof';
        if (is_dir($root)) {
            Warehouse::open($root)->destroy();
        }
        $warehouse = (new PracticeWorld(self::NOW * 1_000_000, 1.0, static fn (string $table) => $say("writing {$table}")))->build(
            $root,
            'proof',
            12,
        );
        $table = $warehouse->table('field', 'climate_reading') ?? throw new RuntimeException('no table');
        $layout = LayoutReader::of($warehouse, $table, self::NOW * 1_000_000);
        $say('reading the workload');
        $reader = new UseReader([
            self::TABLE => array_combine(
                array_map(static fn ($c): string => $c->name, $layout->definition->columns),
                array_map(static fn ($c): ColumnType => $c->type, $layout->definition->columns),
            ),
        ]);
        $statements = $texts = [];
        foreach (Repertoire::all() as $statement) {
            $sql = $statement->fill(self::NOW, new Randomizer(new Mt19937(7)));
            $uses = array_values(
                array_filter($reader->read($sql, $statement->database) ?? [], static fn ($use): bool => $use->table === self::TABLE),
            );
            $reading = $uses === [] || $statement->trouble === Repertoire::CROSS_JOIN ? null : Reading::of($sql);
            if ($reading !== null) {
                // Dashboards ask every five minutes; what people ask is weighted as they pick it.
                $perWeek =
                    $statement->everyMinutes > 0
                        ? 10_080 / $statement->everyMinutes
                        : ($statement->nightlyAt >= 0
                            ? 7.0
                            : 120.0 * $statement->weight);
                $id = (new Fingerprinter())->of($sql)->id;
                $statements[$id] = new StatementUse($id, $perWeek, 0.0, 0.0, $uses, $reading, $statement->team, $statement->database);
            }
        }
        $estate = new Estate(
            [self::TABLE => $layout],
            new Workload(array_values($statements)),
            LayoutReader::rates($warehouse->profile),
            self::NOW * 1_000_000,
        );
        $model = $estate->reads($layout);
        $weight = static fn (StatementUse $s): float => $s->executions *
            array_sum(array_map(static fn ($use): float => $model->bytes($use, $model->share($use)), $s->tables));
        usort($statements, static fn (StatementUse $a, StatementUse $b): int => $weight($b) <=> $weight($a));
        // Statements that filter alike would only repeat each other.
        foreach ($statements as $statement) {
            $texts[(string) json_encode($statement->tables[0]->filtered())] ??= $statement;
        }
        $four = array_slice(array_values($texts), 0, 4);
        $say('looking for a better order');
        $advice =
            (new ClusteringAdvisor($estate))->advise($layout, LayoutReader::sample($table, 20_000)) ??
            throw new RuntimeException('no advice');
        $before = $this->measure($warehouse, $four, $say, 'before');
        $say('laying the table out anew by '.$advice->advice);
        $engine = new Engine($warehouse);
        $limits = new Limits(3600, 10, null, static fn (): int => (int) hrtime(true));
        foreach (
            [
                $advice->definition?->toSql('field.laid_out') ?? '',
                'INSERT INTO field.laid_out SELECT * FROM field.climate_reading',
                'RENAME TABLE field.climate_reading TO climate_before, field.laid_out TO climate_reading',
            ] as $sql
        ) {
            $engine->run($sql, new Session('field', 'bench', self::NOW * 1_000_000), $limits);
        }
        $after = $this->measure($warehouse, $four, $say, 'after');
        $warehouse->destroy();
        $different = $timed = $selective = 0;
        $sums = [0, 0, 0, 0];
        foreach ($four as $i => $statement) {
            $filters = Parts::first(implode(', ', $statement->tables[0]->filtered()), 'nothing');
            $factor = $before[$i][0] / max(1, $after[$i][0]);
            yield BenchFigure::of('fewer bytes, filter on '.$filters, $factor, 'times');
            yield BenchFigure::of('modelled time less', $before[$i][1] / max(1, $after[$i][1]), 'times');
            $different += $before[$i][2] === $after[$i][2] ? 0 : 1;
            if (in_array('read_at', $statement->tables[0]->filtered(), true)) {
                $sums[0] += $before[$i][0];
                $sums[1] += $after[$i][0];
                $timed++;
                $selective += $factor >= 5 ? 1 : 0;
            }
        }
        yield BenchFigure::of('time-filtered statements', $timed, 'statements');
        yield BenchFigure::of('of them with at least 5 times fewer bytes', $selective, 'statements');
        yield BenchFigure::atLeast('fewer bytes, time-filtered ones together', $sums[0] / max(1, $sums[1]), 5.0, 'times');
        yield BenchFigure::atMost('results that differ', $different, 0, 'results');
    }

    /**
     * @param  list<StatementUse>  $statements
     * @return list<array{int, int, string}> bytes, modelled microseconds, digest of the rows
     */
    private function measure(Warehouse $warehouse, array $statements, Closure $say, string $when): array
    {
        $measured = [];
        foreach ($statements as $i => $statement) {
            $say("statement {$i} {$when}");
            $outcome = (new Engine($warehouse, new ChunkCache(6_000_000)))->run(
                $statement->sql,
                new Session($statement->schema, 'bench', self::NOW * 1_000_000),
                new Limits(300, 1_000_000, null, static fn (): int => (int) hrtime(true)),
            );
            assert($outcome->plan !== null);
            $digest = new RowsDigest();
            foreach ($outcome->rows as $row) {
                $digest->add($row);
            }
            $totals = PlanTotals::of($outcome->plan);
            $measured[] = [$totals->bytesScanned, $totals->durationUs, $digest->text()];
        }

        return $measured;
    }
}
