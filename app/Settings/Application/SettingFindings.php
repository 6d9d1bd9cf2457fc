<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use Fulcrion\Core\Settings\SettingRow;
use Fulcrion\Core\Settings\SettingTable;

/**
 * Hosts that are not set as desired, one finding a host.
 */
final readonly class SettingFindings
{
    public const SOURCE = 'settings';

    public function __construct(private Findings $findings, private SettingsStore $store, private ProfileBook $profiles)
    {
    }

    public function report(Cluster $cluster): void
    {
        $actual = $this->store->of($cluster);
        $reported = [];
        foreach (SettingTable::of($this->profiles->of($cluster), $actual)->drift() as $host => $rows) {
            $reported[] = self::reported((string) $host, $rows, count($actual));
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    /**
     * @param  non-empty-list<SettingRow>  $rows
     */
    private static function reported(string $host, array $rows, int $hosts): Reported
    {
        $evidence = [];
        foreach ($rows as $row) {
            $now = (string) $row->values[$host];
            $same = count(array_filter($row->states, static fn ($state): bool => ! $state->isTrouble()));
            $evidence[] = new Evidence($row->name, "{$now}, desired {$row->desired?->said()}"
                .($hosts > 1 ? "; as desired on {$same} of ".count($row->states).' hosts' : ''));
            $evidence[] = new Evidence('why', (string) $row->desired?->reason
                .(($row->desired->rule ?? '') === '' ? '' : " ({$row->desired?->rule})"));
        }
        $names = array_map(static fn (SettingRow $row): string => $row->name, $rows);
        $first = $rows[0];

        return new Reported(
            'setting',
            FindingSubject::item($host),
            Severity::Watch,
            count($rows) === 1 ? "{$first->name} is {$first->values[$host]} on {$host}, and not ".$first->desired?->said()
                : count($rows)." settings of {$host} are not as desired: ".implode(', ', array_slice($names, 0, 4))
                    .(count($names) > 4 ? ' and '.(count($names) - 4).' more' : ''),
            $evidence,
            Weight::none(),
            'set them as desired',
        );
    }
}
