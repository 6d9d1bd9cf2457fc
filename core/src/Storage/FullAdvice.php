<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\Rules\MissingStatistics;
use Fulcrion\Core\Storage\Rules\StaleStatistics;
use Fulcrion\Core\Text\Quantity;

/**
 * Everything that can be advised on a table: each kind by itself, and all that is worth it in one rewriting.
 */
final readonly class FullAdvice
{
    public function __construct(private Estate $estate)
    {
    }

    /**
     * @param  list<ColumnSpread>  $spreads of columns the distribution may go by
     * @return list<Advice> what is worth it first
     *
     * @throws ParquetError
     */
    public function of(TableLayout $table, Sample $sample, array $spreads): array
    {
        $clustering = (new ClusteringAdvisor($this->estate))->advise($table, $sample);
        $partitions = (new PartitionAdvisor($this->estate))->advise($table, $sample);
        $distribution = (new DistributionAdvisor($this->estate))->advise($table, $spreads, $sample);
        $all = array_values(
            array_filter(
                [
                    $this->together($table, $sample, $clustering, $partitions, $distribution),
                    $this->compaction($table, $sample),
                    $clustering,
                    $partitions,
                    $distribution,
                    $this->statistics($table, $sample),
                ],
                static fn (?Advice $advice): bool => $advice !== null,
            ),
        );
        usort($all, static fn (Advice $a, Advice $b): int => [$b->worthIt, $b->savedUs] <=> [$a->worthIt, $a->savedUs]);

        return $all;
    }

    /**
     * @throws ParquetError
     */
    private function together(TableLayout $table, Sample $sample, ?Advice ...$parts): ?Advice
    {
        [$clustering, $partitions, $distribution] = [...$parts, null, null, null];
        $worth = array_values(
            array_filter(
                [$clustering, $partitions, $distribution],
                static fn (?Advice $a): bool => $a !== null && $a->worthIt && $a->definition !== null,
            ),
        );
        if (count($worth) < 2) {
            return null;
        }
        $best = $table->definition;
        foreach ([$clustering, $distribution] as $part) {
            if ($part?->worthIt === true && $part->definition !== null) {
                $best =
                    $part === $clustering
                        ? $best->laidOut(clustering: $part->definition->clustering(), chunkRows: $part->definition->chunkRows)
                        : $best->laidOut($part->definition->distribution);
            }
        }
        $advisor = new ClusteringAdvisor($this->estate);
        $gain = $advisor->gain($table, $sample, $best);
        if ($partitions?->worthIt === true && $partitions->definition !== null) {
            // Partitions beside an order may be of no use any more.
            $candidate = $best->laidOut(partitioning: $partitions->definition->partitioning ?? false);
            $other = $advisor->gain($table, $sample, $candidate);
            if ($other['us'] > 1.05 * $gain['us']) {
                [$best, $gain] = [$candidate, $other];
            }
        }
        foreach ($worth as $part) {
            // What does as well alone is easier to look after.
            if ($gain['us'] <= 1.02 * $part->savedUs) {
                return null;
            }
        }

        if ($gain['us'] <= 0) {
            return null;
        }

        return new Advice(
            'together',
            "Rebuild {$table->name} with all that is worth it",
            [
                ['placed', $best->distribution->describe()],
                ['cut', $best->partitioning?->describe() ?? 'into no partitions'],
                ['sorted by', $best->clustering()->describe().", {$best->chunkRows} rows a chunk"],
            ],
            $gain['bytes'],
            $gain['us'],
            (float) $table->bytes() * $table->rowFactor,
            $this->estate->reads($table)->rewriteUs($table->bytes()),
            $gain['worse'],
            $best,
        );
    }

    /**
     * @throws ParquetError
     */
    private function compaction(TableLayout $table, Sample $sample): Advice
    {
        $plan = Compaction::of($table);
        $gain = (new ClusteringAdvisor($this->estate))->gain($table, $sample, $table->definition, 1.0);
        $model = $this->estate->reads($table);
        // What opening a file costs is not modelled; where every file is small, it is most of the time.
        $worth =
            ($gain['us'] > LayoutModel::SURE * $gain['nowUs'] || $table->engine === 'files') &&
            $plan->chunksSaved() > 0.2 * count($table->chunks) &&
            $plan->chunksSaved() >= 8;

        return new Advice(
            'compaction',
            $worth
                ? 'Compact '.
                    $table->name.
                    ' from '.
                    Quantity::count(count($table->chunks)).
                    ' to '.
                    Quantity::count(count($table->chunks) - $plan->chunksSaved()).
                    ' chunks'
                : 'Keep the chunks as they are',
            [
                [
                    'chunks',
                    Quantity::count(count($table->chunks)).
                    ', '.
                    Quantity::percent($table->smallShare()).
                    ' of them below a quarter of '.
                    ($table->targetBytes === null ? Quantity::count($table->target()).' rows' : Quantity::bytes($table->target())),
                ],
                [
                    'rewritten',
                    Quantity::count($plan->chunksRead).
                    ' chunks with '.
                    Quantity::bytes($plan->bytesRewritten * $table->rowFactor).
                    '; the others are not touched',
                ],
                [
                    'bytes a row when packed',
                    $table->engine === 'files'
                        ? 'not known from footers'
                        : Quantity::percent($gain['packing']).' of now, measured by writing part of the sample',
                ],
            ],
            $gain['bytes'],
            $gain['us'],
            (float) $plan->bytesRewritten * $table->rowFactor,
            $model->rewriteUs($plan->bytesRewritten),
            $worth
                ? [
                    ...$gain['bytes'] < 0
                        ? ['Larger chunks let less be skipped, since their rows are not in order: sort the table instead.']
                        : [],
                    ...$gain['worse'],
                ]
                : [],
            null,
            ['MAINTAIN TABLE '.$table->path().' WITH (action = compact)'],
            $worth,
        );
    }

    private function statistics(TableLayout $table, Sample $sample): ?Advice
    {
        $case = new TableCase($table, $this->estate, $sample);
        foreach ([new MissingStatistics(), new StaleStatistics()] as $rule) {
            $found = $rule->check($case, array_map(static fn (array $threshold): float => $threshold[0], $rule->thresholds()))[0] ?? null;
            if ($found !== null) {
                return new Advice(
                    'statistics',
                    'Collect statistics: '.lcfirst($found->problem),
                    $found->evidence,
                    0.0,
                    0.0,
                    (float) $table->bytes() * $table->rowFactor,
                    $this->estate->reads($table)->rewriteUs($table->bytes()) / 2,
                    [],
                    null,
                    $found->statements,
                );
            }
        }

        return null;
    }
}
