<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Ledger\Findings\Worth;
use App\Platform\Figures\BarFigure;
use App\Platform\Figures\LineFigure;
use App\Platform\Figures\TimeMarks;
use App\Platform\Figures\WeekFigure;
use App\Platform\Support\Clock;
use App\Telemetry\Store\KnownStatements;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Store\ReadingGaps;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Text\Quantity;

/**
 * Puts together what the page of one statement says.
 */
final readonly class StatementView
{
    public function __construct(
        private StatementDetail $detail,
        private KnownStatements $known,
        private ReadingGaps $gaps,
        private TimeMarks $marks,
        private PlanStore $plans,
        private Worth $worth,
    ) {
    }

    /**
     * @return array<string, mixed>|null null when no cluster ever saw the statement
     */
    public function of(string $fingerprint, StatementScope $scope): ?array
    {
        $statement = $this->known->find($fingerprint, $scope->cluster->id);
        if ($statement === null) {
            return null;
        }
        $facts = $this->detail->facts($statement, $scope);
        $data = [
            'statement' => $statement,
            'row' => null,
            'sentence' => $statement->first_us === null
                    ? "{$scope->cluster->name} never ran this statement."
                    : 'This statement did not run '.Sentences::window($scope).'.',
        ];
        if ($facts === null) {
            return $data;
        }
        $row = $facts['row'];
        assert($row instanceof StatementRow);
        $ghostWindow = $scope->against ?? $scope->window->before();
        $now = $this->detail->series($statement->id, $scope, $scope->window);
        $ghost = $this->detail->series($statement->id, $scope, $ghostWindow);
        $ghostName = $scope->against === null ? 'the window before' : 'the window compared with';
        $sketch = $facts['sketch'];
        assert($sketch instanceof LatencySketch);
        $runs = Quantity::count($row->sums['executions']);
        [$from, $to] = [$scope->window->from, $scope->window->to];
        $gaps = $this->gaps->of($scope->cluster, $from, $to, Clock::seconds());
        $marks = $this->marks->of($scope->cluster->id, $from, $to);
        foreach ($this->plans->changed($scope->cluster->id, $fingerprint, $from, $to) as $at) {
            $marks[$at] = ltrim(($marks[$at] ?? '').', new plan', ', ');
        }
        ksort($marks);

        return [
            ...$data,
            'row' => $row,
            // As much as in the window, all the time.
            'worth' => $this->worth->saved($scope->cluster, $row->sums['load_us'] * 604_800 / $scope->window->seconds()),
            'sentence' => self::sentence($row, $scope),
            'meanFigure' => LineFigure::draw(
                'mean',
                'Mean latency over time',
                'Mean latency of each interval, with '.$ghostName.' dashed.',
                'Mean duration of the executions that began in each interval of '.
                    Quantity::duration($now['step'] * 1e6).
                    ", from {$runs} executions; dashed: {$ghostName}, laid over.",
                $now['times'],
                $scope->window->to,
                $now['meanUs'],
                $ghost['meanUs'],
                $ghostName,
                $scope->zone,
                static fn (float $us): string => Quantity::duration($us),
                true,
                $gaps,
                $marks,
            ),
            'countFigure' => LineFigure::draw(
                'count',
                'Executions over time',
                'Executions of each interval, with '.$ghostName.' dashed.',
                'Executions that began in each interval of '.Quantity::duration($now['step'] * 1e6)."; dashed: {$ghostName}.",
                $now['times'],
                $scope->window->to,
                $now['executions'],
                $ghost['executions'],
                $ghostName,
                $scope->zone,
                static fn (float $count): string => Quantity::count($count),
                false,
                $gaps,
                $marks,
            ),
            'spreadFigure' => $sketch->count() > 0
                    ? BarFigure::durations(
                        'spread',
                        $sketch->classes(),
                        ['p50' => $row->percentiles->p50Us, 'p95' => $row->percentiles->p95Us, 'p99' => $row->percentiles->p99Us],
                        $sketch->count(),
                    )
                    : null,
            'weekFigure' => WeekFigure::draw('week', $this->detail->week($statement->id, $scope)),
            'origins' => $this->detail->origins($statement->id, $scope),
            'messages' => $this->detail->messages($statement->id, $scope),
            'remarks' => self::remarks($row),
        ];
    }

    private static function sentence(StatementRow $row, StatementScope $scope): string
    {
        $slowdown = $row->slowdown();
        $text = match ($row->sums['executions']) {
            0 => 'Runs that began earlier reach into this window: '.Quantity::duration($row->sums['load_us']),
            1 => 'Ran once '.Sentences::window($scope).', for '.Quantity::duration($row->meanUs()),
            default => 'Ran '.
                Quantity::count($row->sums['executions']).
                ' times '.
                Sentences::window($scope).
                ', '.
                Quantity::duration($row->meanUs()).
                ' each',
        };

        return $text.
            match (true) {
                $slowdown === null => '.',
                $slowdown >= 1.01 || $slowdown <= 0.99 => '; that is '.
                    Quantity::change(1.0, $slowdown, 'slower', 'faster').
                    ' than in the window before.',
                default => '; as in the window before.',
            };
    }

    /**
     * What the facts mean, in words.
     *
     * @return list<array{state: string, text: string}>
     */
    private static function remarks(StatementRow $row): array
    {
        $sums = $row->sums;
        $runs = max(1, $sums['executions']);
        $of = static fn (int $count): string => Quantity::count($count).
            ' of '.
            Quantity::count($runs).
            ' runs ('.
            Quantity::percent($count / $runs).
            ')';
        $remarks = [];
        if (! $row->knows(Fact::FULL_SCAN)) {
            $remarks[] = ['state' => 'no data', 'text' => 'The source does not say whether tables were read in full.'];
        } elseif ($sums['full_scans'] > 0) {
            $remarks[] = [
                'state' => 'watch',
                'text' => $of($sums['full_scans']).' read a table in full: every row or chunk is looked at, whatever the filter keeps.',
            ];
        } else {
            $remarks[] = ['state' => 'calm', 'text' => 'No run read a table in full.'];
        }
        if (! $row->knows(Fact::INDEX)) {
            $remarks[] = ['state' => 'no data', 'text' => 'The source does not say whether an index was used.'];
        } elseif ($sums['no_index'] > 0) {
            $remarks[] = ['state' => 'watch', 'text' => $of($sums['no_index']).' used no index: the time grows with the table.'];
        } else {
            $remarks[] = ['state' => 'calm', 'text' => 'Every run used an index.'];
        }
        if (! $row->knows(Fact::TMP_DISK)) {
            $remarks[] = ['state' => 'no data', 'text' => 'The source does not count temporary tables.'];
        } elseif ($sums['tmp_disk'] > 0) {
            $remarks[] = [
                'state' => 'act',
                'text' => Quantity::count($sums['tmp_disk']).
                    ' temporary tables went to disk, '.
                    Quantity::count($sums['tmp_memory']).
                    ' stayed in memory: intermediate rows were too many or too wide for it.',
            ];
        } else {
            $remarks[] = [
                'state' => 'calm',
                'text' => $sums['tmp_memory'] > 0
                        ? Quantity::count($sums['tmp_memory']).' temporary tables, all in memory.'
                        : 'No temporary tables.',
            ];
        }
        if (! $row->knows(Fact::SORT_PASSES)) {
            $remarks[] = ['state' => 'no data', 'text' => 'The source does not count the passes of sorts.'];
        } elseif ($sums['multi_pass'] > 0) {
            $remarks[] = [
                'state' => 'watch',
                'text' => $of($sums['multi_pass']).
                    ' sorted in several passes over disk, '.
                    Quantity::count($sums['sort_passes']).
                    ' passes in all: the sort buffer was too small for the rows.',
            ];
        } else {
            $remarks[] = ['state' => 'calm', 'text' => 'Every sort fitted in memory.'];
        }
        if ($row->knows(Fact::BYTES_SPILLED) && $sums['bytes_spilled'] > 0) {
            $remarks[] = [
                'state' => 'act',
                'text' => Quantity::bytes($sums['bytes_spilled']).
                    ' spilled to disk, '.
                    Quantity::bytes($sums['bytes_spilled'] / $runs).
                    ' a run: memory did not hold the rows between steps.',
            ];
        }
        if ($row->knows(Fact::QUEUED) && $sums['queued_us'] > 0.2 * $sums['duration_us']) {
            $remarks[] = [
                'state' => 'watch',
                'text' => Quantity::percent($sums['queued_us'] / max(1, $sums['duration_us'])).
                    ' of its time was spent waiting in a queue, not working.',
            ];
        }
        if ($row->failures() > 0) {
            $remarks[] = [
                'state' => 'watch',
                'text' => 'Not every run ended well: '.
                    Quantity::count($sums['errors']).
                    ' with an error, '.
                    Quantity::count($sums['cancelled']).
                    ' cancelled, '.
                    Quantity::count($sums['timed_out']).
                    ' timed out.',
            ];
        }

        return $remarks;
    }
}
