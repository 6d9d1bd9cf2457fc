<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\HostPage;
use App\Health\Metrics\HostReadings;
use App\Platform\Figures\TimeMarks;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * What hosts were doing.
 */
final readonly class HostController
{
    private const WINDOW = 'last hour';

    public function __construct(private HostReadings $readings, private TimeMarks $marks)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $hosts = DB::table('metric_series')->distinct()->orderBy('host')->get(['cluster_id', 'host']);
        $host = $hosts->firstWhere('host', $request->query('host')) ?? $hosts->first();
        $asked = AskedWindow::of($request, self::WINDOW, $user->zone());
        $window = $asked->window;
        $page = $host === null ? null : HostPage::of(
            (int) $host->cluster_id,
            (string) $host->host,
            $window,
            Clock::seconds(),
            $user->zone(),
            $this->readings,
            $this->marks->of((int) $host->cluster_id, $window->from, $window->to),
        );

        return view('health.hosts', [
            'hosts' => $hosts,
            'page' => $page,
            'cluster' => $host === null ? null : Cluster::query()->find($host->cluster_id),
            'text' => $asked->text,
            'complaint' => $asked->complaint,
            'zone' => $user->zone(),
        ]);
    }
}
