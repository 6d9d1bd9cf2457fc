<?php

declare(strict_types=1);

namespace App\Sessions\Http;

use App\Estate\Connectors\MariaDbSource;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Sessions\Application\Deadlocks;
use App\Sessions\Application\SessionsNow;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use PDOException;

final readonly class LocksController
{
    private const DEADLOCK_DAYS = 7;

    public function __construct(private SessionsNow $now, private Deadlocks $deadlocks)
    {
    }

    public function show(Request $request): View
    {
        $live = Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('name')->get();
        $cluster = Cluster::chosen($live, $request->query('cluster'));
        $locks = $error = null;
        $canStop = false;
        if ($cluster !== null) {
            try {
                [$locks, $canStop] = $this->now->on($cluster);
            } catch (PDOException $exception) {
                $error = MariaDbSource::clean($exception);
            }
        }
        $data = [
            'live' => $live,
            'cluster' => $cluster,
            'locks' => $locks,
            'error' => $error,
            'canStop' => $canStop,
            'at' => Clock::seconds(),
            'sentence' => match (true) {
                $cluster === null => 'No live server is connected',
                $locks === null => "{$cluster->name} does not answer",
                default => $locks->sentence(),
            },
            'deadlocks' => $cluster === null
                ? []
                : $this->deadlocks->of($cluster, Clock::microseconds() - self::DEADLOCK_DAYS * 86_400_000_000),
            'days' => self::DEADLOCK_DAYS,
        ];

        return view($request->header('HX-Request') !== null ? 'sessions.locks-now' : 'sessions.locks', $data);
    }
}
