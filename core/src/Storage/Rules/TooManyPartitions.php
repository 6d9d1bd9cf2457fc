<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\PartitionAdvisor;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Partitions of a handful of rows cost more than they let skip.
 */
final readonly class TooManyPartitions implements HouseRule
{
    public function id(): string
    {
        return 'too-many-partitions';
    }

    public function title(): string
    {
        return 'Too many partitions for the rows';
    }

    public function reason(): string
    {
        return 'Partitions of a handful of rows cost more than they let skip.';
    }

    public function guidance(): array
    {
        return [
            'A partition keeps rows apart on disk, so a filter on its column skips the others unseen. Each has files of its own on each '
                .'node it has rows on: many partitions of few rows are many tiny files.',
            'Take the partitions away from small tables; take a coarser grain for large ones. The page of the table shows for each '
                .'grain how much the workload would skip and how many rows a partition would hold.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'partitions' => [12, 'partitions from which this is checked'],
            'rows' => [1000, 'stored rows a partition should hold on average'],
        ];
    }

    /**
     * @throws ParquetError
     */
    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $partitions = count($table->partitions());
        $each = $table->rows() / max(1, $partitions);
        if ($table->definition->partitioning === null || $partitions < $thresholds['partitions'] || $each >= $thresholds['rows']) {
            return [];
        }
        $together =
            $case->sample === null
                ? ['bytes' => 0.0, 'us' => 0.0, 'packing' => 1.0]
                : (new ClusteringAdvisor($case->estate))->gain(
                    $table,
                    $case->sample,
                    $table->definition->laidOut(partitioning: false),
                    1.0,
                );
        $advice = $case->sample === null ? null : (new PartitionAdvisor($case->estate))->advise($table, $case->sample);
        $gain = $advice?->worthIt === true ? ['bytes' => $advice->savedBytes, 'us' => $advice->savedUs] : $together;
        if ($gain['us'] < 0) {
            // Small as they are, these let the statements skip more than opening them costs, and a coarser grain does not do better.
            return [];
        }

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                $each < $thresholds['rows'] / 10,
                "{$table->name} splits ".Quantity::count($table->rows()).' rows into '.Quantity::count($partitions).' partitions',
                [
                    ['rows a partition', Quantity::digits($each).' on average'],
                    ['files', Quantity::count(count($table->chunks))],
                    ['bytes a row when kept together', Quantity::percent($together['packing']).' of now, measured by writing a sample'],
                ],
                $gain['us'],
                max(0.0, $gain['bytes']),
                'partitions',
            ),
        ];
    }
}
