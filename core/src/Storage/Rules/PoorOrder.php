<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Text\Quantity;

/**
 * Chunks whose spans overlap all have to be read for a filter that wants little.
 */
final readonly class PoorOrder implements HouseRule
{
    public function id(): string
    {
        return 'poor-order';
    }

    public function title(): string
    {
        return 'Chunks overlap in what is filtered';
    }

    public function reason(): string
    {
        return 'Chunks whose spans overlap all have to be read for a filter that wants little.';
    }

    public function guidance(): array
    {
        return [
            'Each chunk knows the least and greatest value of every column. A filter skips a chunk when what it wants lies outside. '
                .'That works when rows near in the filtered column lie in the same chunk, and fails when every chunk covers a wide span.',
            'Sort the table by the column its statements filter most, or by two along a curve. The advice sorts a sample each way and '
                .'measures what the real workload would still read.',
            'Rows that arrive later come in their own order; a maintenance schedule puts in order what is out of it, and leaves the rest.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'gain' => [0.7, 'what the best order would read over what the present one does, at most'],
            'rows' => [20000, 'stored rows below which order does not matter'],
        ];
    }

    /**
     * @throws ParquetError
     */
    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        if ($case->sample === null || $table->rows() < $thresholds['rows'] || count($table->chunks) < 2 * $table->nodes) {
            return [];
        }
        $advisor = new ClusteringAdvisor($case->estate);
        if ($advisor->asked($table) === [] || $advisor->ratio($table, $case->sample) > $thresholds['gain']) {
            return [];
        }
        $advice = $advisor->advise($table, $case->sample);
        if ($advice === null || ! $advice->worthIt || $advice->savedUs <= 0 || $advice->definition === null) {
            return [];
        }
        $read = $case->sum(static fn (TableUse $use): float =>
            $case->model()->bytes($use, $case->model()->share($use))) * $table->rowFactor;
        if ($read <= 0) {
            return [];
        }

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                true,
                "Statements on {$table->name} would read ".
                    Quantity::percent(1 - $advice->savedBytes / $read).
                    " of what they read now if it were sorted by {$advice->definition->clustering()->describe()}",
                array_slice($advice->figures, 0, 3),
                $advice->savedUs,
                $advice->savedBytes,
                'clustering',
            ),
        ];
    }
}
