<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Findings\FindingState;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Facades\DB;

/**
 * Open findings that would make statements cheaper, and by how much. Modelled: a finding knows how much time a week it costs a statement;
 * the part of its time is taken for the part of its cost.
 */
final readonly class Remedies
{
    public function __construct(private UsageReader $reader)
    {
    }

    /**
     * @param  array<string, BigDecimal>  $costs cost of statements in the days of the scope, by fingerprint
     * @return array<string, array{finding: int, problem: string, month: BigDecimal}> by fingerprint; of several the one that saves most
     */
    public function of(array $costs, UsageScope $scope): array
    {
        $days = $scope->days->count();
        // Of everybody: so is what a finding costs.
        $all = UsageScope::within($scope->days, UsageMeasure::InFlight, $scope->cluster);
        $inFlight = array_filter(
            array_map(
                static fn (Used $used): int => $used->amount,
                $this->reader->ofStatements(array_map(strval(...), array_keys($costs)), $all, $scope->days),
            ),
            static fn (int $us): bool => $us > 0,
        );
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
}
