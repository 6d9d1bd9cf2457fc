<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Connectors\LayoutSource;
use App\Estate\Connectors\TableKeeper;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Telemetry\Workload\Advisor;
use Closure;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\Encodings\Lab;
use Fulcrion\Core\Storage\Encodings\LabResult;
use Fulcrion\Core\Storage\Encodings\Variant;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\Rebuild;
use Fulcrion\Core\Storage\Rollups\AggregateUse;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Rollups\RollupProposal;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableSteps;

/**
 * What could be done for some statements, one kind after the other, on copies of their tables.
 */
final class TuningRemedies
{
    public const ACTS = [
        'statistics' => 'Statistics',
        'layout' => 'Layout',
        'rollups' => 'Rollups',
        'lookups' => 'Lookups',
        'encodings' => 'Encodings',
    ];

    /** Share of a table's bytes its rollups may take. */
    private const SPACE = 0.25;

    private int $built = 0;

    /**
     * @param  array<string, string>  $copies table => where it lies on the rehearsal cluster now
     * @param  Closure(): bool  $stop
     */
    public function __construct(
        private readonly LayoutSource $source,
        private readonly TableKeeper $keeper,
        private readonly LayoutSource $there,
        private readonly Estate $all,
        private readonly Estate $chosen,
        private readonly string $schema,
        public array $copies,
        private readonly Closure $stop,
    ) {
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    public function of(string $act, array $workload): array
    {
        $remedies = [];
        foreach (array_keys($this->copies) as $name) {
            $table = $this->all->tables[$name] ?? null;
            if ($table !== null && $table->chunks !== []) {
                array_push(
                    $remedies,
                    ...match ($act) {
                        'statistics' => $this->statistics($table, $workload),
                        'layout' => $this->layout($table, $workload),
                        'rollups' => $this->rollups($table, $workload),
                        'lookups' => $this->lookup($table, $workload),
                        default => $this->encoding($table, $workload),
                    },
                );
            }
        }

        return $remedies;
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    private function statistics(TableLayout $table, array $workload): array
    {
        $known = $table->statistics;
        if ($known->ageUs !== null && $known->changedShare < 0.1 && $known->ageUs < 7 * 86_400_000_000) {
            return [];
        }
        $sql = "ANALYZE TABLE {$table->path()}";

        return [
            new TuningRemedy(
                "Collect statistics of {$table->name}",
                [$table->name],
                fn () => $this->apply('ANALYZE TABLE '.TableSteps::path($this->copies[$table->name])),
                static fn () => null,
                new Proposal(
                    $table->name,
                    "Collect statistics of {$table->name}",
                    TableChangeKind::Statistics->value,
                    [$sql],
                    Inverse::none(),
                    0.0,
                    0.0,
                    0.0,
                    0.0,
                    [],
                    $workload,
                ),
                0.0,
            ),
        ];
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    private function layout(TableLayout $table, array $workload): array
    {
        $advices = array_values(
            array_filter(
                (new Advisor())->all($this->source, $this->all, $table),
                static fn (Advice $a): bool => $a->worthIt && $a->definition !== null,
            ),
        );
        $together = array_values(array_filter($advices, static fn (Advice $a): bool => $a->kind === 'together'));
        usort($advices, static fn (Advice $a, Advice $b): int => $b->savedUs <=> $a->savedUs);
        $advice = $together[0] ?? ($advices[0] ?? null);
        $definition = $advice?->definition;
        if ($advice === null || $definition === null) {
            return [];
        }
        $before = $this->copies[$table->name];
        $after = "{$this->schema}.built_".++$this->built;
        $columns = array_map(strval(...), array_keys($table->statistics->columns));

        return [
            new TuningRemedy(
                "{$table->name}: {$advice->advice}",
                [$table->name],
                function () use ($definition, $before, $after, $table, $columns): void {
                    foreach (TableSteps::build($definition, $before, $after, $columns) as $sql) {
                        $this->apply($sql);
                    }
                    $this->copies[$table->name] = $after;
                },
                function () use ($before, $after, $table): void {
                    $this->copies[$table->name] = $before;
                    $this->apply(TableSteps::drop($after));
                },
                new Proposal(
                    $table->name,
                    $advice->advice,
                    TableChangeKind::Rebuild->value,
                    [],
                    Inverse::layout(),
                    $advice->savedUs,
                    $advice->savedBytes,
                    $advice->costUs,
                    $advice->costBytes,
                    $advice->worse,
                    $workload,
                    new Rebuild($definition, $table->definition, $columns),
                ),
                (float) $table->bytes() * $table->rowFactor,
            ),
        ];
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    private function rollups(TableLayout $table, array $workload): array
    {
        $proposals = (new RollupAdvisor($this->chosen))
            ->of($table, $this->source->sample($table->name, Advisor::SAMPLE), self::SPACE * $table->bytes(), INF, 1e5)
            ->proposals();
        if ($proposals === []) {
            return [];
        }
        $served = array_merge(
            ...array_map(
                static fn (RollupProposal $p): array => array_map(
                    static fn (AggregateUse $use): string => $use->statement,
                    array_values($p->served),
                ),
                $proposals,
            ),
        );
        $names = static fn (RollupProposal $p): string => 'rollup_'.substr(hash('xxh64', $p->name), 0, 12);

        return [
            new TuningRemedy(
                (count($proposals) === 1 ? 'A rollup' : count($proposals).' rollups')." of {$table->name}",
                [$table->name],
                function () use ($proposals, $table, $names): void {
                    foreach ($proposals as $p) {
                        $this->apply(
                            "CREATE ROLLUP {$this->schema}.{$names($p)} AS ".
                                str_replace(
                                    " FROM {$table->path()} ",
                                    ' FROM '.TableSteps::path($this->copies[$table->name]).' ',
                                    $p->query,
                                ),
                        );
                    }
                },
                function () use ($proposals, $names): void {
                    foreach ($proposals as $p) {
                        $this->apply("DROP ROLLUP IF EXISTS {$this->schema}.{$names($p)}");
                    }
                },
                new Proposal(
                    $table->name,
                    count($proposals) === 1
                        ? "Keep the rollup {$proposals[0]->name}"
                        : 'Keep '.count($proposals)." rollups of {$table->name}",
                    TableChangeKind::Rollups->value,
                    array_map(static fn (RollupProposal $p): string => $p->create(), $proposals),
                    Inverse::statements(array_map(static fn (RollupProposal $p): string => $p->drop(), $proposals)),
                    array_sum(array_map(static fn (RollupProposal $p): float => $p->savedUs, $proposals)),
                    0.0,
                    0.0,
                    0.0,
                    [],
                    array_values(array_filter($workload, static fn (array $one): bool => in_array($one['id'], $served, true))),
                ),
                array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->bytes, $proposals)) * $table->rowFactor,
            ),
        ];
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    private function lookup(TableLayout $table, array $workload): array
    {
        $p = (new LookupAdvisor($this->chosen))->of($table, $this->source->sample($table->name, Advisor::SAMPLE));
        if ($p === null || $p->savedUs <= 0) {
            return [];
        }
        $printer = new Printer();
        $name = "{$this->schema}.lookup_".++$this->built;

        return [
            new TuningRemedy(
                "A lookup of {$table->name} by {$p->key}",
                array_keys($this->copies),
                fn () => $this->apply(
                    "CREATE LOOKUP {$name} WITH (key = {$printer->name($p->key)}) AS SELECT ".
                        implode(', ', array_map($printer->name(...), $p->columns)).
                        ' FROM '.
                        TableSteps::path($this->copies[$table->name]),
                ),
                fn () => $this->apply("DROP LOOKUP IF EXISTS {$name}"),
                new Proposal(
                    $table->name,
                    "Keep the lookup {$p->name()}",
                    TableChangeKind::Rollups->value,
                    [$p->create()],
                    Inverse::statements([$p->drop()]),
                    $p->savedUs,
                    $p->savedBytes * $table->rowFactor,
                    0.0,
                    0.0,
                    [],
                    array_values(array_filter($workload, static fn (array $one): bool => in_array($one['id'], $p->served, true))),
                ),
                0.0,
            ),
        ];
    }

    /**
     * As small as it gets in the order the table has now: what it reads from disk is what its time is made of.
     *
     * @param  list<array{id: string, executions: float}>  $workload
     * @return list<TuningRemedy>
     */
    private function encoding(TableLayout $table, array $workload): array
    {
        $copy = $this->copies[$table->name];
        $now = $this->there->layout($copy);
        [$places] = $this->there->places($copy, 2);
        if ($now === null || $places === [] || $now->bytes() < 200_000) {
            return [];
        }
        $lab = (new Lab(
            $now->definition->columns,
            $now->definition->chunkRows,
            static fn (): int => 0,
            function (): void {
                ($this->stop)();
            },
            [],
            2,
        ))->run($places, $now->definition->clustering);
        $order = $now->definition->clustering === [] ? 'as it comes' : 'by its key';
        $variants = array_values(
            array_filter(
                $lab->variants([]),
                static fn (Variant $v): bool => $v->policy === LabResult::SMALLEST && $v->compression === 'gzip5' && $v->order === $order,
            ),
        );
        $variant = $variants[0] ?? null;
        if ($variant === null || $variant->bytesPerRow * $now->rows() > 0.97 * $now->bytes()) {
            return [];
        }
        $chosen = array_filter($variant->encodings, static fn (string $word): bool => $word !== '');
        $encodings = implode(
            ', ',
            array_map(
                static fn (string $column, string $word): string => "{$column}:{$word}",
                array_keys($chosen),
                $chosen,
            ),
        );
        $sql = static fn (string $path): string => "MAINTAIN TABLE {$path} WITH (action = encode, compression = gzip5".
            ($encodings === '' ? '' : ", encodings = '{$encodings}'").
            ')';
        $version = 0;

        return [
            new TuningRemedy(
                "{$table->name} packed tighter: {$variant->label()}",
                [$table->name],
                function () use ($sql, $copy, &$version): void {
                    $version = $this->keeper->version($copy);
                    $this->apply($sql(TableSteps::path($copy)));
                },
                function () use ($copy, &$version): void {
                    $this->apply('MAINTAIN TABLE '.TableSteps::path($copy)." WITH (action = revert, version = {$version})");
                },
                new Proposal(
                    $table->name,
                    "Write {$table->name} {$variant->label()}",
                    TableChangeKind::Maintain->value,
                    [$sql($table->path())],
                    Inverse::version(),
                    0.0,
                    0.0,
                    0.0,
                    (float) $table->bytes() * $table->rowFactor,
                    [],
                    $workload,
                ),
                (float) $now->bytes() * $table->rowFactor,
            ),
        ];
    }

    private function apply(string $sql): void
    {
        $this->keeper->apply($sql, $this->stop);
    }
}
