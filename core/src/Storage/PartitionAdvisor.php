<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Text\Quantity;

/**
 * Finds the column and grain to keep rows apart by: much skipped, without partitions of a handful of rows.
 */
final readonly class PartitionAdvisor
{
    /** Partitions of fewer chunks than this on a node are too small. */
    private const CHUNKS = 1.0;

    private const MOST_PARTITIONS = 400;

    private const ROWS = 8_000;

    private const WORTH = 0.85;

    /** Candidates whose whole gain is modelled. */
    private const WEIGHED = 4;

    public function __construct(private Estate $estate)
    {
    }

    /**
     * @return list<array{partitioning: Partitioning|null, share: float, partitions: int, rowsEach: float, tooMany: bool}> best first,
     *     too fine ones last
     */
    public function tried(TableLayout $table, Sample $sample): array
    {
        $asked = ClusteringAdvisor::heaviest((new ClusteringAdvisor($this->estate))->asked($table));
        $sample = $sample->thinned(self::ROWS);
        $filtered = [];
        foreach ($asked as $one) {
            foreach ($one['predicates'] as $predicate) {
                $filtered[$predicate->column] = true;
            }
        }
        $candidates = [null];
        if ($table->definition->partitioning !== null) {
            $candidates[] = $table->definition->partitioning;
        }
        foreach (array_keys($filtered) as $name) {
            $type = $table->definition->column($name)?->type;
            if ($type?->is(TypeKind::Date, TypeKind::Timestamp) === true) {
                foreach (Partitioning::SPANS as $span) {
                    $candidates[] = new Partitioning($name, $span);
                }
            } elseif ($type?->is(TypeKind::Text, TypeKind::Boolean, TypeKind::Bigint) === true) {
                $candidates[] = new Partitioning($name, null);
            }
        }
        $columns = array_map(strval(...), array_keys($filtered));
        $tried = [];
        foreach ($candidates as $candidate) {
            $partitions = $this->partitions($table, $sample, $candidate);
            if ($partitions > self::MOST_PARTITIONS) {
                continue;
            }
            $rowsEach = $table->rows() / max(1, $partitions);
            // Every partition has chunks of its own on every node it has rows on.
            $nodes = $table->definition->distribution->kind === Distribution::COPY ? 1 : $table->nodes;
            $tried[$candidate?->describe() ?? 'none'] ??= [
                'partitioning' => $candidate,
                'share' => LayoutTrial::share(
                    LayoutTrial::index($sample, $table->definition->laidOut(partitioning: $candidate ?? false), $table->nodes, $columns),
                    $asked,
                ),
                'partitions' => $partitions,
                'rowsEach' => $rowsEach,
                'tooMany' => $partitions > 1 && $rowsEach < self::CHUNKS * TableLayout::SMALL * $table->definition->chunkRows * $nodes,
            ];
        }
        $tried = array_values($tried);
        usort(
            $tried,
            static fn (array $a, array $b): int => [$a['tooMany'], round($a['share'], 2), $a['partitions']] <=> [
                $b['tooMany'],
                round($b['share'], 2),
                $b['partitions'],
            ],
        );

        return $tried;
    }

    /**
     * @throws ParquetError
     */
    public function advise(TableLayout $table, Sample $sample): ?Advice
    {
        $tried = $this->tried($table, $sample);
        $best = $tried[0] ?? null;
        if ($best === null || $sample->rows() < 2) {
            return null;
        }
        $now = $table->definition->partitioning;
        $is = static fn (array $one): bool => ($one['partitioning'] instanceof Partitioning ? $one['partitioning']->describe() : null) ===
            $now?->describe();
        $current = array_values(array_filter($tried, $is))[0] ?? null;
        $tooMany = $current !== null && $current['tooMany'];
        [$same, $gain, $definition] = [
            true,
            ['bytes' => 0.0, 'us' => 0.0, 'nowUs' => 0.0, 'packing' => 1.0, 'worse' => []],
            $table->definition,
        ];
        // What writing the rows anew would give by itself is not the partitions' merit, and small gains are within what the model is off
        // by.
        $model = $this->estate->model($table, $sample);
        $nowUs = $model->now()->us;
        $bar = max(0.0, $nowUs - $model->anew($table->definition)->us) + LayoutModel::SURE * $nowUs;
        foreach (array_slice($tried, 0, self::WEIGHED) as $one) {
            if ($is($one) || (! $tooMany && $one['share'] >= self::WORTH * ($current['share'] ?? 1.0))) {
                continue;
            }
            $other = $table->definition->laidOut(partitioning: $one['partitioning'] ?? false);
            $weighed = (new ClusteringAdvisor($this->estate))->gain($table, $sample, $other);
            // Partitions that are too small for a rule of thumb may still skip more than they cost.
            if ($weighed['us'] > max($gain['us'], $bar)) {
                [$same, $best, $gain, $definition] = [false, $one, $weighed, $other];
            }
        }
        $hidden = array_keys(
            array_filter($this->estate->workload->columns($table->name), static fn (array $column): bool => $column['wrapped'] > 0),
        );

        return new Advice(
            'partitions',
            match (true) {
                $same => 'Keep the partitions as they are',
                $best['partitioning'] === null => 'Take the partitions away',
                default => 'Cut '.$table->name.' '.$best['partitioning']->describe(),
            },
            [
                ...$tooMany
                    ? [
                        [
                            'now',
                            Quantity::count($current['partitions']).
                            ' partitions of '.
                            Quantity::count((int) $current['rowsEach']).
                            ' rows each: too many for the rows',
                        ],
                    ]
                    : [],
                ...array_map(
                    static fn (array $one): array => [
                        $one['partitioning']?->describe() ?? 'no partitions',
                        Quantity::percent($one['share']).
                        ' of the bytes read; '.
                        Quantity::count($one['partitions']).
                        ' of '.
                        Quantity::count((int) $one['rowsEach']).
                        ' rows'.
                        ($one['tooMany'] ? ', too small' : ''),
                    ],
                    array_slice($tried, 0, 8),
                ),
                ...array_map(static fn (int|string $name): array => ['cannot prune', "filters wrap {$name} in an expression"], $hidden),
            ],
            $gain['bytes'],
            $gain['us'],
            $same ? 0.0 : (float) $table->bytes() * $table->rowFactor,
            $same ? 0.0 : $this->estate->reads($table)->rewriteUs($table->bytes()),
            [
                ...$gain['worse'],
                ...$same || $best['partitioning'] === null ? [] : ['Each load writes one file for each partition it touches.'],
            ],
            $definition,
            [],
            ! $same,
        );
    }

    private function partitions(TableLayout $table, Sample $sample, ?Partitioning $candidate): int
    {
        if ($candidate === null) {
            return 1;
        }
        if ($candidate->describe() === $table->definition->partitioning?->describe()) {
            return max(1, count($table->partitions()));
        }
        $type = $table->definition->column($candidate->column)?->type;
        $names = [];
        foreach ($type === null ? [] : $sample->column($candidate->column) as $value) {
            if ($type !== null) {
                $names[$candidate->name($value, $type)] = true;
            }
            if (count($names) > self::MOST_PARTITIONS) {
                break;
            }
        }

        // Where hardly a value comes twice, a sample does not tell how many there are.
        return count($names) * 4 > $sample->rows() ? PHP_INT_MAX : count($names);
    }
}
