<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Models\Cluster;
use Illuminate\Support\Facades\DB;

/**
 * Thresholds of house rules, where a cluster has its own.
 */
final readonly class Settings
{
    /**
     * @return array{array<string, array<string, float>>, list<string>} thresholds by rule, rules that are off
     */
    public function of(Cluster $cluster): array
    {
        $thresholds = $off = [];
        foreach (DB::table('house_rule_settings')->where('cluster_id', $cluster->id)->get() as $row) {
            $thresholds[$row->rule] = array_map(floatval(...), (array) json_decode($row->thresholds, true));
            if ($row->off) {
                $off[] = $row->rule;
            }
        }

        return [$thresholds, $off];
    }

    /**
     * @param  array<string, float>  $thresholds
     */
    public function keep(Cluster $cluster, string $rule, array $thresholds, bool $off): void
    {
        DB::table('house_rule_settings')->updateOrInsert(
            ['cluster_id' => $cluster->id, 'rule' => $rule],
            ['thresholds' => json_encode((object) $thresholds, JSON_THROW_ON_ERROR), 'off' => $off],
        );
    }
}
