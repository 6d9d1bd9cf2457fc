<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\BesidePage;
use App\Health\Application\HostPage;
use App\Health\Application\OtherMetrics;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use App\Platform\Figures\TimeMarks;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * What hosts were doing.
 */
final readonly class HostController
{
    private const WINDOW = 'last hour';

    private const BESIDE_WINDOW = 'last 7 days';

    public function __construct(private HostReadings $readings, private TimeMarks $marks, private OtherMetrics $others)
    {
    }

    public function beside(Request $request, #[CurrentUser] User $user): View
    {
        $cluster = $this->cluster($request);
        $typed = $request->query('measure');
        $measure = HostMeasure::tryFrom(is_string($typed) ? $typed : '') ?? HostMeasure::DiskTime;
        $asked = AskedWindow::of($request, self::BESIDE_WINDOW, $user->zone());
        $page = $cluster === null ? null : BesidePage::of($cluster, $measure, $asked, Clock::seconds(), $user->zone(), $this->readings);

        return view('health.beside', [
            'clusters' => $this->clusters(), 'cluster' => $cluster, 'measure' => $measure, 'page' => $page, 'text' => $asked->text,
            'complaint' => $asked->complaint, 'zone' => $user->zone(),
        ]);
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $cluster = $this->cluster($request);
        $hosts = $cluster === null ? [] : DB::table('metric_series')->where('cluster_id', $cluster->id)->distinct()->orderBy('host')
            ->pluck('host')->all();
        $host = in_array($request->query('host'), $hosts, true) ? $request->query('host') : $hosts[0] ?? null;
        $asked = AskedWindow::of($request, self::WINDOW, $user->zone());
        $window = $asked->window;

        return view('health.hosts', [
            'clusters' => $this->clusters(),
            'hosts' => $hosts,
            'others' => $cluster === null || $host === null ? [[], 0]
                : $this->others->of($cluster->id, (string) $host, $window->from, min($window->to, Clock::seconds() + 60)),
            'page' => $cluster === null || $host === null ? null : HostPage::of(
                $cluster->id,
                (string) $host,
                $window,
                Clock::seconds(),
                $user->zone(),
                $this->readings,
                $this->marks->of($cluster->id, $window->from, $window->to),
            ),
            'cluster' => $cluster,
            'text' => $asked->text,
            'complaint' => $asked->complaint,
            'zone' => $user->zone(),
        ]);
    }

    /**
     * @return Collection<int, Cluster> those of which hosts are known
     */
    private function clusters(): Collection
    {
        return Cluster::query()->whereIn('id', DB::table('metric_series')->distinct()->select('cluster_id'))->orderBy('name')->get();
    }

    /** The one that is asked for; else the one whose hosts can be held against each other, or any. */
    private function cluster(Request $request): ?Cluster
    {
        $clusters = $this->clusters();
        $host = $request->query('host');
        $ofHost = is_string($host) ? DB::table('metric_series')->where('host', $host)->value('cluster_id') : null;

        return $clusters->firstWhere('slug', $request->query('cluster'))
            ?? $clusters->firstWhere('id', $ofHost)
            ?? $clusters->firstWhere('connector', 'practice')
            ?? $clusters->first();
    }
}
