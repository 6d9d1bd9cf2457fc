<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Health\Charts\MomentFigure;
use App\Health\Probes\SystemAnswer;
use App\Health\Probes\SystemQuestion;
use App\Ledger\Models\Finding;
use App\Platform\Figures\Figure;
use App\Platform\Figures\TimeMarks;
use DateTimeZone;

/**
 * Makes the page of all that is known of a moment.
 */
final readonly class MomentPage
{
    private const AROUND = 43_200;

    private const FINDINGS = 20;

    public function __construct(
        private ClusterLines $lines,
        private SystemQuestion $question,
        private InFlightAt $inFlight,
        private TimeMarks $marks,
    ) {
    }

    /**
     * @return array{line: ClusterLine, answer: SystemAnswer, executions: list<InFlight>, figure: Figure|null, marks: array<int, string>,
     *     findings: list<Finding>}
     */
    public function of(Cluster $cluster, int $at, DateTimeZone $zone): array
    {
        $executions = $this->inFlight->of($cluster, $at);
        $marks = $this->marks->of($cluster->id, $at - self::AROUND, $at + self::AROUND);

        return [
            'line' => $this->lines->of($cluster, $at),
            'answer' => $this->question->ask($cluster, $at, null, null, $zone),
            'executions' => $executions,
            'figure' => MomentFigure::draw($executions, $at, $marks, $zone),
            'marks' => $marks,
            'findings' => array_values(Finding::query()->with('cluster')->where('cluster_id', $cluster->id)
                ->where('first_us', '>=', ($at - self::AROUND) * 1_000_000)->where('first_us', '<', ($at + self::AROUND) * 1_000_000)
                ->orderBy('first_us')->limit(self::FINDINGS)->get()->all()),
        ];
    }
}
