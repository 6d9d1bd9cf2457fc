<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Findings\FindingState;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;
use Illuminate\Support\Facades\DB;

/**
 * Open findings that would make statements cheaper, and by how much. Modelled: a finding knows how much time a week it costs a statement;
 * the part of its time is taken for the part of its cost.
 */
final readonly class Remedies
{
    private const DAY = 86_400;

    /**
     * @param  array<string, BigDecimal>  $costs cost of statements in the days of the scope, by fingerprint
     * @return array<string, array{finding: int, problem: string, month: BigDecimal}> by fingerprint; of several the one that saves most
     */
    public static function of(array $costs, UsageScope $scope): array
    {
        $days = intdiv($scope->days->to - $scope->days->from, self::DAY);
        $inFlight = self::inFlight(array_map(strval(...), array_keys($costs)), $scope);
        $remedies = [];
        foreach (
            DB::table('finding_statements')
                ->join('findings', 'findings.id', '=', 'finding_statements.finding_id')
                ->where('findings.state', FindingState::Open->value)
                ->whereIn('fingerprint', array_keys($inFlight))
                ->when($scope->cluster !== null, static fn ($query) => $query->where('cluster_id', $scope->cluster?->id))
                ->orderByDesc('finding_statements.weight_us')
                ->orderBy('finding_id')
                ->get(['fingerprint', 'finding_id', 'problem', 'finding_statements.weight_us']) as $row
        ) {
            $share = min(1.0, (float) $row->weight_us * $days / 7 / $inFlight[$row->fingerprint]);
            $remedies[$row->fingerprint] ??= [
                'finding' => (int) $row->finding_id,
                'problem' => (string) $row->problem,
                'month' => Rates::monthly($costs[$row->fingerprint]->multipliedBy(sprintf('%.6F', $share)), $days),
            ];
        }

        return $remedies;
    }

    /**
     * @param  list<string>  $fingerprints
     * @return array<string, int> microseconds in flight, by fingerprint; none of 0
     */
    private static function inFlight(array $fingerprints, UsageScope $scope): array
    {
        return DB::table('usage_statement_days')
            ->join('statements', 'statements.id', '=', 'usage_statement_days.statement_id')
            ->whereIn('fingerprint', $fingerprints)
            ->where('day_at', '>=', $scope->days->from)
            ->where('day_at', '<', $scope->days->to)
            ->when($scope->cluster !== null, static fn ($query) => $query->where('cluster_id', $scope->cluster?->id))
            ->groupBy('fingerprint')
            ->havingRaw('SUM(in_flight_us) > 0')
            ->selectRaw('fingerprint, SUM(in_flight_us) AS us')
            ->pluck('us', 'fingerprint')
            ->map(static fn (mixed $us): int => (int) $us)
            ->all();
    }
}
