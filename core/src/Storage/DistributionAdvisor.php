<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\Rules\CopiedLarge;
use Fulcrion\Core\Text\Quantity;

/**
 * Finds where rows should live: evenly, with as many joins as possible on the node.
 */
final readonly class DistributionAdvisor
{
    private const WORTH = 0.9;

    /** Skew from which rows that are dealt evenly are worth being dealt again. */
    private const ANEW = 1.2;

    public function __construct(private Estate $estate)
    {
    }

    /**
     * Columns whose spread over the nodes should be counted: those joined most, then those grouped by.
     *
     * @return list<string>
     */
    public function columns(TableLayout $table, int $most = 4): array
    {
        $weights = [];
        foreach ($this->estate->workload->columns($table->name) as $name => $uses) {
            $joined = $this->joined($table->name, $name);
            if ($joined + $uses['group'] > 0) {
                $weights[$name] = $joined * 4 + $uses['group'];
            }
        }
        arsort($weights);

        return array_slice(
            array_unique([
                ...$table->definition->distribution->kind === Distribution::HASH && count($table->definition->distribution->columns) === 1
                    ? $table->definition->distribution->columns
                    : [],
                ...array_map(strval(...), array_keys($weights)),
            ]),
            0,
            $most,
        );
    }

    /**
     * @param  list<ColumnSpread>  $spreads
     * @return list<array{distribution: Distribution, anew: bool, skew: float, local: float, joins: float, sentBytes: float, us: float,
     *     storedBytes: int}> best first; executions and stored bytes a week
     *
     * @throws ParquetError
     */
    public function tried(TableLayout $table, array $spreads, Sample $sample): array
    {
        $now = $table->definition->distribution;
        $candidates = [
            [$now, $table->skew(), false],
            [Distribution::even(), 1.0, $now->kind === Distribution::EVEN && $table->skew() >= self::ANEW],
            ...$table->rows() * $table->rowFactor < CopiedLarge::ROWS ? [[Distribution::copy(), 1.0, false]] : [],
        ];
        foreach ($spreads as $spread) {
            $candidates[] = [Distribution::hash($spread->column), $spread->skew(), false];
        }
        $model = $this->estate->model($table, $sample);
        $tried = [];
        foreach ($candidates as [$distribution, $skew, $anew]) {
            $key = $distribution->describe().($anew ? ' anew' : '');
            if (isset($tried[$key])) {
                continue;
            }
            $cost =
                ! $anew && $distribution->describe() === $now->describe()
                    ? $model->now()
                    : $model->anew($table->definition->laidOut($distribution));
            $tried[$key] = [
                'distribution' => $distribution,
                'anew' => $anew,
                'skew' => $skew,
                'local' => $cost->localJoins,
                'joins' => $cost->joins,
                'sentBytes' => $cost->sentBytes,
                'us' => $cost->us,
                'storedBytes' => $table->bytes() * ($distribution->kind === Distribution::COPY ? $table->nodes : 1),
            ];
        }
        $tried = array_values($tried);
        usort($tried, static fn (array $a, array $b): int => $a['us'] <=> $b['us']);

        return $tried;
    }

    /**
     * @param  list<ColumnSpread>  $spreads
     *
     * @throws ParquetError
     */
    public function advise(TableLayout $table, array $spreads, Sample $sample): ?Advice
    {
        if ($table->nodes < 2 || $table->rows() === 0 || $sample->rows() === 0) {
            return null;
        }
        $tried = $this->tried($table, $spreads, $sample);
        $now = $table->definition->distribution->describe();
        $current =
            array_values(
                array_filter($tried, static fn (array $one): bool => ! $one['anew'] && $one['distribution']->describe() === $now),
            )[0] ?? $tried[0];
        $best = $tried[0];
        // Skew alone is no reason: what is moved between nodes for an even spread may cost more than it gives.
        // What writing the rows anew would give by itself is not the distribution's merit.
        $bar = $best['anew'] ? $current['us'] : min($current['us'], $this->estate->model($table, $sample)->anew($table->definition)->us);
        $same = $best['us'] >= (1 - LayoutModel::SURE) * $bar || ($best['us'] >= self::WORTH * $bar && $current['skew'] < 1.5);
        $best = $same ? $current : $best;
        $heavy = [];
        foreach ($spreads as $spread) {
            if ($spread->skew() >= 1.5) {
                // Shares tell what is wrong; which values they are of is nobody's business here.
                $shares = array_map(
                    static fn (array $one): string => Quantity::percent($one[1] / max(1, $spread->rows)),
                    array_slice($spread->heavy, 0, 3),
                );
                $heavy[] = [
                    "rows by {$spread->column}",
                    implode(', ', $shares).' in the most frequent of '.Quantity::count($spread->distinct).' distinct values',
                ];
            }
        }
        $copyMore = $best['storedBytes'] - $current['storedBytes'];

        return new Advice(
            'distribution',
            $best['anew']
                ? "Spread the rows of {$table->name} evenly again"
                : ($same
                    ? "Keep {$table->name} placed {$now}"
                    : "Place {$table->name} ".
                        self::words($best['distribution']).
                        ' instead of '.
                        self::words($table->definition->distribution)),
            [
                ...array_map(
                    static fn (array $one): array => [
                        $one['distribution']->describe().($one['anew'] ? ', spread again' : ''),
                        'skew '.
                        Quantity::digits($one['skew']).
                        ', '.
                        Quantity::percent($one['joins'] > 0 ? $one['local'] / $one['joins'] : 1.0).
                        ' of joins local, '.
                        Quantity::bytes($one['sentBytes'] * $table->rowFactor).
                        ' a week between nodes, '.
                        Quantity::bytes($one['storedBytes'] * $table->rowFactor).
                        ' stored',
                    ],
                    array_slice($tried, 0, 7),
                ),
                ...$heavy,
            ],
            ($current['sentBytes'] - $best['sentBytes']) * $table->rowFactor,
            $current['us'] - $best['us'],
            $same ? 0.0 : (float) $table->bytes() * $table->rowFactor,
            $same ? 0.0 : $this->estate->reads($table)->rewriteUs($table->bytes()),
            [
                ...$best['sentBytes'] > $current['sentBytes']
                    ? [Quantity::bytes(($best['sentBytes'] - $current['sentBytes']) * $table->rowFactor).' a week more go between nodes.']
                    : [],
                ...$copyMore > 0 ? [Quantity::bytes($copyMore * $table->rowFactor).' more are stored.'] : [],
            ],
            $table->definition->laidOut($best['distribution']),
            [],
            ! $same,
        );
    }

    private static function words(Distribution $distribution): string
    {
        return match ($distribution->kind) {
            Distribution::HASH => $distribution->describe(),
            Distribution::COPY => 'as a copy on every node',
            default => 'evenly',
        };
    }

    /** Executions a week that join by the column as it is. */
    private function joined(string $table, string $column): float
    {
        $sum = 0.0;
        foreach ($this->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                foreach ($use->table === $table ? $use->joins : [] as $join) {
                    $sum += $join->column === $column && ! $join->mismatch ? $statement->executions : 0.0;
                }
            }
        }

        return $sum;
    }
}
