<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\HostPage;
use App\Health\Metrics\HostReadings;
use App\Platform\Figures\TimeMarks;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;

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
        $typed = $request->query('window');
        $text = is_string($typed) && trim($typed) !== '' ? $typed : self::WINDOW;
        $complaint = null;
        try {
            $window = WindowText::parse($text, Clock::seconds(), $user->zone());
        } catch (InvalidArgumentException $exception) {
            $complaint = $exception->getMessage();
            $window = WindowText::parse($text = self::WINDOW, Clock::seconds(), $user->zone());
        }
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
            'text' => $text,
            'complaint' => $complaint,
            'zone' => $user->zone(),
        ]);
    }
}
