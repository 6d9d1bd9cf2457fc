<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Models\Change;
use App\Platform\Figures\TimeMarks;

/**
 * Changes that were applied to a cluster or undone, for figures over time.
 */
final class ChangeMarks
{
    /**
     * @return array<int, string> name by Unix second
     */
    public static function of(int $clusterId, int $from, int $to): array
    {
        $marks = [];
        $span = [$from * 1_000_000, $to * 1_000_000 - 1];
        foreach (['applied_us' => 'applied', 'undone_us' => 'undone'] as $column => $word) {
            $query = Change::query()->where('cluster_id', $clusterId)->whereBetween($column, $span)->orderBy('id');
            foreach ($query->pluck($column, 'id') as $id => $us) {
                $marks[] = [intdiv((int) $us, 1_000_000), "change {$id} {$word}"];
            }
        }

        return TimeMarks::named($marks);
    }
}
