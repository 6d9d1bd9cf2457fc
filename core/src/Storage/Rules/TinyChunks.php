<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Each chunk costs a file, a footer and an opening; tiny ones pack badly.
 */
final readonly class TinyChunks implements HouseRule
{
    public function id(): string
    {
        return 'tiny-chunks';
    }

    public function title(): string
    {
        return 'Many tiny chunks';
    }

    public function reason(): string
    {
        return 'Each chunk costs a file, a footer and an opening; tiny ones pack badly.';
    }

    public function guidance(): array
    {
        return [
            'Loads in small batches leave a chunk for each batch, node and partition. Thousands of them make every read open thousands '
                .'of files, keep dictionaries from paying, and let manifests grow.',
            'Compaction writes small neighbours together up to the target size and touches nothing else. On a real lake the target is '
                .'256 MB or more; on the practice cluster it is the rows of a chunk the table states.',
            'Loading less often in larger batches keeps them from coming back; so does a maintenance schedule that compacts when there are '
                .'too many.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'share' => [0.5, 'share of chunks below a quarter of the target'],
            'saved' => [50, 'chunks fewer that compaction has to promise'],
        ];
    }

    /**
     * @throws ParquetError
     */
    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $plan = Compaction::of($table);
        $share = $table->smallShare();
        if ($share < $thresholds['share'] || $plan->chunksSaved() < $thresholds['saved']) {
            return [];
        }
        $gain =
            $case->sample === null
                ? ['bytes' => 0.0, 'us' => 0.0, 'packing' => 1.0]
                : (new ClusteringAdvisor($case->estate))->gain($table, $case->sample, $table->definition, 1.0);

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                $table->chunks !== [] && count($table->chunks) > 20 * ($plan->chunksAfter + count($table->chunks) - $plan->chunksRead),
                "{$table->name} lies in ".
                    Quantity::count(count($table->chunks)).
                    ' chunks, '.
                    Quantity::percent($share).
                    ' of them tiny',
                [
                    ['after compaction', Quantity::count(count($table->chunks) - $plan->chunksSaved()).' chunks'],
                    ['rewritten', Quantity::bytes($plan->bytesRewritten * $table->rowFactor)],
                    ['bytes a row when packed', Quantity::percent($gain['packing']).' of now, measured by writing part of a sample'],
                ],
                max(0.0, $gain['us']),
                max(0.0, $gain['bytes']),
                $gain['bytes'] < 0 ? 'clustering' : 'compaction',
                ['MAINTAIN TABLE '.$table->path().' WITH (action = compact)'],
            ),
        ];
    }
}
