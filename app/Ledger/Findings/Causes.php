<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use App\Ledger\Models\Finding;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/**
 * Which finding another one comes of: a statement is slow because of something about its tables that is a finding itself, and that
 * finding knows what it costs each statement.
 */
final readonly class Causes
{
    /** A cause explains at least this share of what the finding weighs. */
    public const LEAST = 0.2;

    /**
     * @param  iterable<Finding>  $findings
     * @return array<int, CausingFinding> by id of the finding that has one
     */
    public function of(iterable $findings): array
    {
        $wanted = [];
        foreach ($findings as $finding) {
            $subject = $finding->subject();
            $weight = $finding->weight();
            if ($subject->kind === SubjectKind::Statement && $weight->unit === WeightUnit::QueryTime) {
                $wanted[$finding->cluster_id][(string) $subject->statement][] = $finding;
            }
        }
        $causes = [];
        foreach ($wanted as $cluster => $byStatement) {
            foreach ($this->explaining($cluster, array_keys($byStatement)) as $row) {
                foreach ($byStatement[$row->fingerprint] as $finding) {
                    $share = (float) $row->weight_us / $finding->weight;
                    if ($share >= self::LEAST && ! isset($causes[$finding->id])) {
                        $causes[$finding->id] = new CausingFinding((int) $row->finding_id, (string) $row->problem, min(1.0, $share));
                    }
                }
            }
        }

        return $causes;
    }

    /**
     * The findings this one is the cause of.
     *
     * @return list<CausingFinding> with the finding explained in place of the cause
     */
    public function explainedBy(Finding $finding): array
    {
        $subjects = DB::table('finding_statements')
            ->where('finding_id', $finding->id)
            ->pluck('fingerprint')
            ->map(static fn (string $fingerprint): string => FindingSubject::statement($fingerprint)->key());
        $suspected = Finding::query();
        $suspected
            ->where('cluster_id', $finding->cluster_id)
            ->whereIn('state', FindingState::waiting())
            ->whereIn('object', $subjects)
            ->orderByDesc('weight');
        $all = $suspected->get();
        $causes = $this->of($all);
        $explained = [];
        foreach ($all as $one) {
            if (($causes[$one->id] ?? null)?->findingId === $finding->id) {
                $explained[] = new CausingFinding($one->id, $one->problem, $causes[$one->id]->share);
            }
        }

        return $explained;
    }

    /**
     * Keeps what a finding costs each statement.
     *
     * @param  array<string, float>  $byStatementUs by fingerprint, a week
     */
    public function keep(Finding $finding, array $byStatementUs): void
    {
        DB::table('finding_statements')->where('finding_id', $finding->id)->delete();
        $rows = [];
        foreach ($byStatementUs as $fingerprint => $us) {
            if ($us > 0) {
                $rows[] = ['finding_id' => $finding->id, 'fingerprint' => (string) $fingerprint, 'weight_us' => $us];
            }
        }
        foreach (array_chunk($rows, 500) as $chunk) {
            DB::table('finding_statements')->insert($chunk);
        }
    }

    /**
     * @param  list<array-key>  $fingerprints
     * @return Collection<int, object{finding_id: int, fingerprint: string, weight_us: float, problem: string}&\stdClass> heaviest first
     */
    private function explaining(int $cluster, array $fingerprints): Collection
    {
        /** @var Collection<int, object{finding_id: int, fingerprint: string, weight_us: float, problem: string}&\stdClass> $rows */
        $rows = DB::table('finding_statements')
            ->join('findings', 'findings.id', '=', 'finding_statements.finding_id')
            ->where('findings.cluster_id', $cluster)
            ->whereIn('findings.state', FindingState::waiting())
            ->whereIn('fingerprint', array_map(strval(...), $fingerprints))
            ->orderByDesc('finding_statements.weight_us')
            ->orderBy('finding_id')
            ->get(['finding_id', 'fingerprint', 'finding_statements.weight_us', 'problem']);

        return $rows;
    }
}
