<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\InFlightAt;
use App\Health\Application\LiveHost;
use App\Metrics\Store\ThisHost;
use App\Platform\Models\User;
use App\Platform\Support\AskedMoment;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * One host at this moment, every two seconds, or at one that has been.
 */
final readonly class LiveController
{
    private const MINUTE = 60;

    public function __construct(private LiveHost $live, private ThisHost $own, private InFlightAt $inFlight)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        return view('health.live', $this->data($request, $user));
    }

    public function part(Request $request, #[CurrentUser] User $user): View
    {
        return view('health.live-part', $this->data($request, $user));
    }

    /**
     * @return array<string, mixed>
     */
    private function data(Request $request, User $user): array
    {
        $hosts = DB::table('metric_series as s')->join('clusters as c', 'c.id', '=', 's.cluster_id')->whereNull('c.deleted_at')
            ->distinct()->orderBy('c.name')->orderBy('s.host')->get(['c.slug', 'c.id', 'c.is_own', 's.host']);
        $one = $hosts->first(static fn ($each): bool => $each->host === $request->query('host')
                && ($request->query('cluster') === null || $each->slug === $request->query('cluster')))
            ?? $hosts->firstWhere('slug', $request->query('cluster'))
            ?? $hosts->first(fn ($each): bool => (bool) $each->is_own && $each->host === $this->own->name())
            ?? $hosts->firstWhere('is_own', 1) ?? $hosts->first();
        $asked = AskedMoment::of($request, $user->zone());
        $isNow = $asked->text === '' || $asked->complaint !== null;
        // Only the host this application runs on can be read at each look.
        $isOwn = $one !== null && $isNow && (bool) $one->is_own && $one->host === $this->own->name();
        $view = match (true) {
            $one === null => null,
            $isOwn => $this->live->own("{$user->id}"),
            default => $this->live->kept((int) $one->id, (string) $one->host, $asked->at),
        };
        $cluster = $one === null ? null : Cluster::query()->where('id', $one->id)->first();

        return [
            'hosts' => $hosts, 'host' => $one?->host, 'cluster' => $cluster, 'view' => $view, 'isOwn' => $isOwn, 'isNow' => $isNow,
            'isPaused' => $request->boolean('paused'), 'text' => $isNow ? '' : $asked->text, 'complaint' => $asked->complaint,
            'zone' => $user->zone(), 'at' => $asked->at,
            'executions' => $cluster === null ? [] : $this->inFlight->of($cluster, $isNow ? Clock::seconds() - self::MINUTE : $asked->at),
        ];
    }
}
