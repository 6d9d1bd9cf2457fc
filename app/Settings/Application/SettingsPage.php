<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Settings\Charts\SettingsFigure;
use Fulcrion\Core\Settings\SettingRow;
use Fulcrion\Core\Settings\SettingState;
use Fulcrion\Core\Settings\SettingTable;

/**
 * What the page Settings says of a cluster.
 */
final readonly class SettingsPage
{
    private const CHANGES = 10;

    public function __construct(private SettingsStore $store, private ProfileBook $profiles)
    {
    }

    /**
     * @param  int|null  $at how it was then; null for now
     * @param  string  $asked part of the names that are listed; empty for all
     * @return array<string, mixed>
     */
    public function of(Cluster $cluster, ?int $at, int $from, int $to, string $asked): array
    {
        $profile = $this->profiles->of($cluster);
        $table = SettingTable::of($profile, $this->store->of($cluster, $at));
        $drift = $table->drift();

        return [
            'cluster' => $cluster,
            'profile' => $profile,
            'saved' => $this->profiles->saved($cluster),
            'table' => $table,
            'drift' => $drift,
            'sentence' => self::sentence($table, $drift),
            'figure' => $table->hosts === [] ? null : SettingsFigure::draw($table),
            'reads' => $this->store->reads($cluster),
            'changed' => $this->store->changed($cluster->id, $from, $to),
            'rows' => array_values(array_filter($table->rows, static fn (SettingRow $row): bool => $asked === ''
                ? $row->desired !== null || $row->differs() : str_contains($row->name, $asked))),
            'changes' => Change::query()->where('cluster_id', $cluster->id)->where('kind', SettingChanges::KIND)->orderByDesc('id')
                ->limit(self::CHANGES)->get(),
        ];
    }

    /**
     * @param  array<string, non-empty-list<SettingRow>>  $drift
     */
    private static function sentence(SettingTable $table, array $drift): string
    {
        $hosts = count($table->hosts);
        $unread = array_filter($table->rows, static fn (SettingRow $row): bool => in_array(SettingState::Unread, $row->states, true));

        return match (true) {
            $hosts === 0 => 'No host has told its settings yet',
            $hosts === 1 && count($drift) === 1 => array_key_first($drift).' differs from the desired profile in '
                .self::counted(count($drift[array_key_first($drift)]), 'setting'),
            count($drift) === 1 => array_key_first($drift).' differs from the desired profile, '.($hosts - 1)
                .($hosts === 2 ? ' other host does' : ' other hosts do').' not',
            count($drift) > 1 => implode(' and ', count($drift) > 2 ? [self::counted(count($drift), 'host')] : array_keys($drift))
                .' differ from the desired profile'.($hosts > count($drift) ? ', the other '.($hosts - count($drift)).' do not' : ''),
            $unread !== [] => self::counted(count($unread), 'setting').' cannot be read; all others are as desired',
            $hosts === 1 => $table->hosts[0].' is set as desired',
            default => "All {$hosts} hosts are set as desired",
        };
    }

    private static function counted(int $count, string $what): string
    {
        return "{$count} {$what}".($count === 1 ? '' : 's');
    }
}
