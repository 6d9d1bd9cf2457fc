<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Ledger\Findings\Worth;
use App\Ledger\Models\ProofRecord;
use App\Telemetry\Store\Sums;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * What a proof promises: each of its statements goes on running as in the week before, and takes the share of that time the proof says.
 * Only the share is taken from the proof, since a rehearsal may run on a part of the rows.
 */
final readonly class Promise
{
    private const WEEK_SECONDS = 604_800;

    public function __construct(private Sums $sums, private Worth $worth)
    {
    }

    /**
     * @return float|null microseconds a week in flight, below zero where it costs more; null where no statements are compared
     */
    public function usPerWeek(ProofRecord $record): ?float
    {
        $saved = $this->byStatement($record);

        return $saved === null ? null : array_sum($saved);
    }

    /**
     * @return array<string, float>|null the same by fingerprint
     */
    public function byStatement(ProofRecord $record): ?array
    {
        $change = $record->change;
        $remaining = $record->body === 'time' ? $record->proof()->remaining() : [];
        if ($remaining === []) {
            return null;
        }
        $until = intdiv(min($record->made_us, $change->applied_us ?? $record->made_us), 1_000_000);
        $until -= $until % 300;
        $ids = DB::table('statements')->whereIn('fingerprint', array_map(strval(...), array_keys($remaining)))->pluck('fingerprint', 'id');
        $loads = $this->sums->perStatement(
            $change->cluster_id,
            new Window($until - self::WEEK_SECONDS, $until),
            ['load_us'],
            null,
            array_values($ids->keys()->map(intval(...))->all()),
        );
        $saved = [];
        foreach ($loads as $id => $sums) {
            $saved[(string) $ids[$id]] = $sums['load_us'] * (1 - $remaining[(string) $ids[$id]]);
        }

        return $saved;
    }

    /** In words, with money where it is known; empty where nothing is promised. */
    public function shown(ProofRecord $record): string
    {
        $us = $this->usPerWeek($record);
        if ($us === null || abs($us) < 1) {
            return '';
        }
        $money = $this->worth->saved($record->change->cluster, abs($us));

        return ($us > 0 ? 'saves ' : 'costs ').Quantity::duration(abs($us)).' of time in flight a week'.
            ($money === '' ? '' : ", about {$money}").' (modelled, from the week before)';
    }
}
