<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\ClusterTime;
use App\Health\Application\InFlightAt;
use App\Health\Application\MomentPage;
use App\Metrics\Store\HostReadings;
use App\Platform\Figures\TimeMarks;
use App\Platform\Models\User;
use App\Platform\Support\AskedMoment;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\ReportFile;
use App\Telemetry\Store\ReadingGaps;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/**
 * One cluster over time, and one moment of it.
 */
final readonly class TimeController
{
    private const WINDOW = 'last 24 hours';

    /** Executions beside the charts. */
    private const MOST = 20;

    public function __construct(private MomentPage $moments)
    {
    }

    public function show(
        Request $request,
        HostReadings $readings,
        ReadingGaps $gaps,
        TimeMarks $marks,
        InFlightAt $inFlight,
        #[CurrentUser] User $user,
    ): View {
        $cluster = $this->cluster($request);
        $asked = AskedWindow::of($request, self::WINDOW, $user->zone());
        $moment = AskedMoment::of($request, $user->zone());
        $window = $asked->window;
        $typed = $moment->text === '' || $moment->complaint !== null ? null : $moment->at;
        $page = $cluster === null ? null : ClusterTime::of($cluster, $window, Clock::seconds(), $user->zone(), $readings, $gaps,
            $marks->of($cluster->id, $window->from, $window->to), $typed, self::seconds($request),
            static fn (int $from, int $to): string => address('cluster.time').'?'.http_build_query([
                'cluster' => $cluster->slug, 'window' => $asked->text,
                'at' => moment($from * 1_000_000, MomentStyle::Written, $user->zone()), 'for' => $to - $from,
            ]));
        $executions = $cluster === null || $page?->at === null ? [] : $inFlight->of($cluster, $page->at, $page->seconds);

        return view('health.time', [
            'clusters' => $this->clusters(), 'cluster' => $cluster, 'page' => $page, 'text' => $asked->text,
            'complaint' => $asked->complaint ?? $moment->complaint, 'zone' => $user->zone(), 'typed' => $moment->text,
            'executions' => array_slice($executions, 0, self::MOST), 'more' => max(0, count($executions) - self::MOST),
            // When the longest of them was there.
            'moment' => max($page->at ?? 0, intdiv(($executions[0] ?? null)->startedUs ?? 0, 1_000_000)),
        ]);
    }

    /** For how long a moment is looked at: a minute, or an interval of a chart. */
    private static function seconds(Request $request): int
    {
        $for = $request->query('for');

        return is_string($for) && in_array((int) $for, ClusterTime::STEPS, true) ? (int) $for : InFlightAt::MINUTE;
    }

    public function moment(Request $request, #[CurrentUser] User $user): View
    {
        $cluster = $this->cluster($request);
        $asked = AskedMoment::of($request, $user->zone());

        return view('health.moment', [
            'clusters' => $this->clusters(), 'cluster' => $cluster, 'at' => $asked->at, 'text' => $asked->text,
            'complaint' => $asked->complaint, 'zone' => $user->zone(),
            'page' => $cluster === null ? null : $this->moments->of($cluster, $asked->at, $user->zone()),
        ]);
    }

    /** The same as one file that needs neither network nor this application. */
    public function file(Request $request, ReportFile $report, #[CurrentUser] User $user): Response
    {
        $cluster = $this->cluster($request) ?? abort(404);
        $at = AskedMoment::of($request, $user->zone())->at;

        return $report->response('health.report-moment', [
            'cluster' => $cluster, 'at' => $at, 'zone' => $user->zone(), 'page' => $this->moments->of($cluster, $at, $user->zone()),
            'about' => "moment · cluster {$cluster->name} · ".moment($at * 1_000_000, MomentStyle::Second, $user->zone())
                ." ({$user->zone()->getName()})",
        ], "{$cluster->slug}-".gmdate('Ymd-His', $at));
    }

    /**
     * @return Collection<int, Cluster>
     */
    private function clusters(): Collection
    {
        return Cluster::productionFirst()->get();
    }

    private function cluster(Request $request): ?Cluster
    {
        $clusters = $this->clusters();

        return Cluster::chosen($clusters, $request->query('cluster'));
    }
}
