<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\StoppedRun;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoStatement;
use Fulcrion\Tools\Demo\PracticeWorld;
use Fulcrion\Tools\Demo\Repertoire;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The five dashboards and the four heaviest statements of the demo world: statistics, layout, rollups and lookups as
 * advised, one after the other.
 */
final class TuningBench implements Measurement
{
    private const NOW = 1_795_000_000;

    public function name(): string
    {
        return 'tuning-run';
    }

    public function run(Closure $say): iterable
    {
        $root = Scratch::folder().'/tuning-run';
        if (is_dir($root)) {
            Warehouse::open($root)->destroy();
        }
        $warehouse = (new PracticeWorld(self::NOW * 1_000_000, 1.0, static fn (string $table) => $say("writing {$table}")))->build(
            $root,
            'tuning',
            12,
        );
        $chosen = $this->chosen($warehouse, $say);
        $say('measuring as it is');
        $before = $this->measure($warehouse, $chosen);
        $week = static fn (array $measured): float => array_sum(
            array_map(static fn (StatementUse $s, array $m): float => $s->executions * $m[0], $chosen, $measured),
        );
        yield BenchFigure::of('statements', count($chosen), 'statements');
        yield BenchFigure::of('one run of each, as it is', array_sum(array_column($before, 0)) / 1e6, 's modelled');
        $engine = new Engine($warehouse);
        $limits = new Limits(3600, 10, null, static fn (): int => (int) hrtime(true));
        $session = new Session('', 'bench', self::NOW * 1_000_000);
        $after = $before;
        foreach (['statistics', 'layout', 'rollups', 'lookups'] as $act) {
            $say($act);
            $estate = $this->estate($warehouse, $chosen);
            foreach (array_keys($this->tables($chosen)) as $name) {
                foreach ($this->statements($act, $warehouse, $estate, $estate->tables[$name]) as $sql) {
                    $engine->run($sql, $session, $limits);
                }
            }
            $after = $this->measure($warehouse, $chosen);
            yield BenchFigure::of("one run of each, after {$act}", array_sum(array_column($after, 0)) / 1e6, 's modelled');
        }
        $warehouse->destroy();
        foreach ($chosen as $i => $statement) {
            yield BenchFigure::of(
                mb_strimwidth(substr($statement->sql, 0, 400), 0, 60, '…').': '.round($before[$i][0] / 1000).' ms before',
                $after[$i][0] / 1000,
                'ms after',
            );
        }
        $differ = count(array_filter(array_keys($chosen), static fn (int $i): bool => $before[$i][1] !== $after[$i][1]));
        yield BenchFigure::of('time of a week less', $week($before) / max(1.0, $week($after)), 'times');
        yield BenchFigure::atLeast(
            'time of one run of each less',
            array_sum(array_column($before, 0)) / max(1, array_sum(array_column($after, 0))),
            40.0,
            'times',
        );
        yield BenchFigure::atMost('results that differ', $differ, 0, 'results');
    }

    /**
     * @return list<StatementUse>
     */
    private function chosen(Warehouse $warehouse, Closure $say): array
    {
        $reader = $this->reader($warehouse);
        $dashboards = $others = [];
        foreach (Repertoire::all() as $statement) {
            $sql = $statement->fill(self::NOW, new Randomizer(new Mt19937(7)));
            $reading = $statement->trouble === Repertoire::CROSS_JOIN ? null : Reading::of($sql);
            if ($reading === null || ! str_starts_with($sql, 'SELECT')) {
                continue;
            }
            $use = new StatementUse(
                (new Fingerprinter())->of($sql)->id,
                self::perWeek($statement),
                0.0,
                0.0,
                $reader->read($reading, $statement->database) ?? [],
                $reading,
                $statement->team,
                $statement->database,
            );
            if ($statement->trouble === Repertoire::DASHBOARD) {
                $dashboards[$use->id] = $use;
            } elseif ($statement->rowsExamined >= 100_000) {
                $others[$use->id] = [$use, $statement];
            }
        }
        $say('looking for the heaviest statements');
        // By what they take on this cluster a week, not by what the history says of them.
        $load = [];
        $shapes = [];
        foreach ($others as $id => [$use]) {
            $shape = json_encode(array_map(static fn ($u): array => [$u->table, $u->filtered(), $u->grouped], $use->tables));
            if (isset($shapes[$shape])) {
                continue;
            }
            $shapes[$shape] = true;
            try {
                $load[$id] = $use->executions * $this->measure($warehouse, [$use])[0][0];
            } catch (StoppedRun) {
                continue;
            }
        }
        arsort($load);

        return [
            ...array_values($dashboards),
            ...array_map(
                static fn (string $id): StatementUse => $others[$id][0],
                array_map(strval(...), array_slice(array_keys($load), 0, 4)),
            ),
        ];
    }

    private static function perWeek(DemoStatement $statement): float
    {
        return $statement->everyMinutes > 0
            ? 10_080 / $statement->everyMinutes
            : ($statement->nightlyAt >= 0
                ? 7.0
                : 120.0 * $statement->weight);
    }

    private function reader(Warehouse $warehouse): UseReader
    {
        $types = [];
        foreach (LayoutReader::all($warehouse, self::NOW * 1_000_000) as $name => $layout) {
            foreach ($layout->definition->columns as $column) {
                $types[$name][$column->name] = $column->type;
            }
        }

        return new UseReader($types);
    }

    /**
     * @param  list<StatementUse>  $chosen
     */
    private function estate(Warehouse $warehouse, array $chosen): Estate
    {
        return new Estate(
            LayoutReader::all($warehouse, self::NOW * 1_000_000),
            new Workload($chosen),
            LayoutReader::rates($warehouse->profile),
            self::NOW * 1_000_000,
        );
    }

    /**
     * @param  list<StatementUse>  $chosen
     * @return array<string, true>
     */
    private function tables(array $chosen): array
    {
        $tables = [];
        foreach ($chosen as $statement) {
            foreach ($statement->tables as $use) {
                $tables[$use->table] = true;
            }
        }

        return $tables;
    }

    /**
     * @return list<string>
     */
    private function statements(string $act, Warehouse $warehouse, Estate $estate, TableLayout $table): array
    {
        [$schema, $name] = explode('.', $table->name, 2);
        $store = $warehouse->table($schema, $name);
        if ($store === null || $table->chunks === []) {
            return [];
        }
        $sample = LayoutReader::sample($store, 16_000);
        if ($act === 'statistics') {
            return $table->statistics->columns === [] || $table->statistics->changedShare > 0.1 ? ["ANALYZE TABLE {$table->path()}"] : [];
        }
        if ($act === 'rollups') {
            return array_map(
                static fn ($p): string => $p->create(),
                (new RollupAdvisor($estate))->of($table, $sample, 0.25 * $table->bytes(), INF, 1e5)->proposals(),
            );
        }
        if ($act === 'lookups') {
            $proposal = (new LookupAdvisor($estate))->of($table, $sample);

            return $proposal === null ? [] : [$proposal->create()];
        }
        $spreads = array_map(
            static fn (string $column) => LayoutReader::spread($store, $column, $warehouse->nodes),
            (new DistributionAdvisor($estate))->columns($table),
        );
        $advice = array_values(
            array_filter(
                (new FullAdvice($estate))->of($table, $sample, $spreads),
                static fn (Advice $a): bool => $a->worthIt && $a->definition !== null,
            ),
        );
        usort($advice, static fn (Advice $a, Advice $b): int => $b->savedUs <=> $a->savedUs);
        $definition = $advice[0]->definition ?? null;

        return $definition === null
            ? []
            : [
                $definition->toSql("{$schema}.{$name}_laid_out"),
                "INSERT INTO {$schema}.{$name}_laid_out SELECT * FROM {$table->path()}",
                "RENAME TABLE {$table->path()} TO {$name}_before, {$schema}.{$name}_laid_out TO {$name}",
                "DROP TABLE {$schema}.{$name}_before",
                "ANALYZE TABLE {$table->path()}",
            ];
    }

    /**
     * @param  list<StatementUse>  $statements
     * @return list<array{int, string}> modelled microseconds, digest of the rows
     */
    private function measure(Warehouse $warehouse, array $statements): array
    {
        $measured = [];
        foreach ($statements as $statement) {
            $outcome = (new Engine($warehouse, new ChunkCache(6_000_000)))->run(
                $statement->sql,
                new Session($statement->schema, 'bench', self::NOW * 1_000_000),
                new Limits(120, 1_000_000, null, static fn (): int => (int) hrtime(true)),
            );
            assert($outcome->plan !== null);
            $digest = new RowsDigest();
            foreach ($outcome->rows as $row) {
                $digest->add($row);
            }
            $measured[] = [PlanTotals::of($outcome->plan)->durationUs, $digest->text()];
        }

        return $measured;
    }
}
