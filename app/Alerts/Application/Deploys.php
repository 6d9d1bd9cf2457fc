<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Platform\Figures\TimeMarks;
use Illuminate\Support\Facades\DB;
use stdClass;

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
        return TimeMarks::named(DB::table('deploys')->where('cluster_id', $clusterId)->whereBetween('at', [$from, $to - 1])->orderBy('id')
            ->get(['at', 'name'])->map(static fn (stdClass $row): array => [(int) $row->at, (string) $row->name]));
    }
}
