<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use Illuminate\Support\Facades\DB;

/**
 * What programs say they deployed.
 */
final readonly class Deploys
{
    public static function note(int $clusterId, int $at, string $name, ?string $link): void
    {
        DB::table('deploys')->upsert(['cluster_id' => $clusterId, 'at' => $at, 'name' => $name, 'link' => $link],
            ['cluster_id', 'at', 'name'], ['link']);
    }

    /**
     * @return array<int, string> name by Unix second
     */
    public static function marks(int $clusterId, int $from, int $to): array
    {
        $marks = [];
        foreach (DB::table('deploys')->where('cluster_id', $clusterId)->whereBetween('at', [$from, $to - 1])->orderBy('id')
            ->get(['at', 'name']) as $row) {
            $at = (int) $row->at;
            $marks[$at] = isset($marks[$at]) ? "{$marks[$at]}, {$row->name}" : (string) $row->name;
        }

        return $marks;
    }
}
