<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Figures\Figure;
use App\Platform\Figures\LineFigure;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\Clock;
use App\Telemetry\Store\ReadingGaps;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;
use Illuminate\Http\Request;

/**
 * Puts together what the Statements page says: sentence, figure, table.
 */
final readonly class StatementsView
{
    public function __construct(
        private Ranking $ranking,
        private LoadSeries $series,
        private Origins $origins,
        private ReadingGaps $gaps,
        private TimeMarks $marks,
        private TimeRail $rail,
    ) {
    }

    /**
     * @return array<string, mixed>
     */
    public function of(StatementScope $scope, Request $request): array
    {
        $order = self::order($request);
        $split =
            is_string($request->query('split')) && isset(LoadSeries::SPLITS[$request->query('split')]) ? $request->query('split') : 'user';
        $measure =
            is_string($request->query('show')) && isset(LoadSeries::MEASURES[$request->query('show')]) ? $request->query('show') : 'load';
        $page = max(1, min(10_000, (int) $request->query('page', '1')));
        $ascending = $request->query('dir') === 'up';
        $ranking = $this->ranking->of($scope, $order, $page, Ranking::PAGE, $ascending);

        return [
            'scope' => $scope,
            'rail' => $this->rail->of($scope->cluster),
            'ranking' => $ranking,
            'figure' => $measure === 'mean' ? $this->meanFigure($scope) : $this->figure($scope, $split, $measure === 'count'),
            'split' => $split,
            'measure' => $measure,
            'order' => $order,
            'ascending' => $ascending,
            'choices' => $this->origins->choices($scope),
            'sentence' => self::sentence($scope, $ranking),
        ];
    }

    public static function order(Request $request): string
    {
        $order = $request->query('by');

        return is_string($order) && isset(Ranking::ORDERS[$order]) ? $order : 'time';
    }

    /**
     * @return array{figure: Figure, names: list<string>}
     */
    private function figure(StatementScope $scope, string $split, bool $count): array
    {
        $origins = $scope->filter->byOrigin() ? $this->origins->ids($scope->filter) : null;
        $series = $this->series->of($scope, $split, $origins, $count);
        [$total, $peak, $peakAt, $peakSeconds] = [0.0, 0.0, 0, 0];
        foreach ($series['times'] as $i => $time) {
            $sum = array_sum(array_column($series['series'], $i));
            $seconds = $scope->window->length($time, $series['step']);
            $total += $sum * $seconds;
            if ($sum > $peak) {
                [$peak, $peakAt, $peakSeconds] = [$sum, $time, $seconds];
            }
        }
        $runs = array_sum($series['executions']);
        $interval = Quantity::duration($series['step'] * 1_000_000);
        $summary =
            $runs === 0
                ? 'No executions in this window.'
                : ($count ? 'Executions a second' : 'Load').
                    ' split by '.
                    LoadSeries::SPLITS[$split].
                    '; mean '.
                    Quantity::digits($total / $scope->window->seconds()).
                    ', highest '.
                    Quantity::digits($peak).
                    ' at '.
                    StackFigure::when($peakAt, $peakSeconds, $scope->zone).
                    '.';
        $how =
            ($count
                ? "Executions that began, for each second of an interval of {$interval}; from "
                : "Load: mean number of executions in flight, time in flight divided by the interval of {$interval}; from ").
            Quantity::count($runs).
            ' executions.'.
            ($split === 'time' && ! $count ? ' Time no counter claims is "rest".' : '').
            ($scope->filter->words !== '' || $scope->filter->flags !== []
                ? ' The figure follows the filters for database, user and application, not those for text and traits.'
                : '');

        $gaps = $this->gaps->of($scope->cluster, $scope->window->from, $scope->window->to, Clock::seconds());

        return [
            'figure' => StackFigure::draw(
                'load',
                $count ? 'Executions over time' : 'Load over time',
                $summary,
                $how,
                $series['times'],
                $scope->window->to,
                $series['series'],
                $series['executions'],
                $scope->zone,
                static fn (int $from, int $to): string => address('statements.index').'?'.
                    http_build_query(
                        $scope->at(Window::around($from, $to))->query() + ['split' => $split] + ($count ? ['show' => 'count'] : []),
                    ),
                $gaps,
                $this->marks->of($scope->cluster->id, $scope->window->from, $scope->window->to),
            ),
            'names' => array_keys($series['series']),
        ];
    }

    /**
     * @return array{figure: Figure, names: list<string>}
     */
    private function meanFigure(StatementScope $scope): array
    {
        $origins = $scope->filter->byOrigin() ? $this->origins->ids($scope->filter) : null;
        $now = $this->series->means($scope, $scope->window, $origins);
        $before = $this->series->means($scope, $scope->window->before(), $origins);

        return [
            'names' => [],
            'figure' => LineFigure::draw(
                'load',
                'Mean latency over time',
                'Mean latency of all executions, with the window before dashed.',
                'Mean duration of the executions that began in each interval of '.
                    Quantity::duration($now['step'] * 1e6).
                    ', from '.
                    Quantity::count($now['executions']).
                    ' executions; dashed: the window before. It follows the filters for database, user and application.',
                $now['times'],
                $scope->window->to,
                $now['meanUs'],
                $before['meanUs'],
                'the window before',
                $scope->zone,
                static fn (float $us): string => Quantity::duration($us),
                true,
                $this->gaps->of($scope->cluster, $scope->window->from, $scope->window->to, Clock::seconds()),
                $this->marks->of($scope->cluster->id, $scope->window->from, $scope->window->to),
            ),
        ];
    }

    public static function sentence(StatementScope $scope, RankingPage $ranking): string
    {
        $when = Sentences::window($scope);
        if ($ranking->statements === 0) {
            return "Nothing ran on {$scope->cluster->name} {$when}".($scope->filter->byOrigin() ? ' for this filter' : '').'.';
        }
        $few = $ranking->bulk['few'];
        $text =
            Quantity::count($few).
            ' of '.
            Quantity::count($ranking->statements).
            ($few === 1 ? ' statements made ' : ' statements made ').
            Quantity::percent($ranking->bulk['share']).
            " of the load on {$scope->cluster->name} {$when}";
        $worst = $ranking->rows[0] ?? null;
        if ($worst === null || $ranking->order !== 'time' || $ranking->page !== 1 || ! $scope->filter->isEmpty()) {
            return $text.'.';
        }
        $ratio = $worst->ratio();
        $slowdown = $worst->slowdown();

        return $text.
            '; the worst '.
            match (true) {
                $slowdown !== null && $slowdown >= 1.5 => 'is '.
                    Quantity::change(1.0, $slowdown, 'slower', 'faster').
                    ' than in the window before',
                $ratio !== null && $ratio >= 10 => 'reads '.Quantity::short(round($ratio)).' rows for each it returns',
                $worst->sums['executions'] === 1 => 'ran once, for '.Quantity::duration($worst->meanUs()),
                default => 'ran '.
                    Quantity::count($worst->sums['executions']).
                    ' times for '.
                    Quantity::duration($worst->meanUs()).
                    ' each',
            }.
            '.';
    }
}
