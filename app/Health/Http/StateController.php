<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\MetricStore;
use App\Health\Application\RowLockTime;
use App\Health\Application\ServerEvents;
use App\Health\Application\StatePage;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use InvalidArgumentException;

final readonly class StateController
{
    private const WINDOW = 'last hour';

    public function __construct(private MetricStore $store, private ServerEvents $events, private RowLockTime $locks)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $live = Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('name')->get();
        $cluster = $live->firstWhere('slug', $request->query('cluster')) ?? $live->first();
        $cluster = $cluster instanceof Cluster ? $cluster : null;
        $zone = $user->zone();
        $typed = $request->query('window');
        $text = is_string($typed) && trim($typed) !== '' ? $typed : self::WINDOW;
        $complaint = null;
        try {
            $window = WindowText::parse($text, Clock::seconds(), $zone);
        } catch (InvalidArgumentException $exception) {
            $complaint = $exception->getMessage();
            $window = WindowText::parse($text = self::WINDOW, Clock::seconds(), $zone);
        }

        return view('health.state', [
            'live' => $live,
            'cluster' => $cluster,
            'text' => $text,
            'complaint' => $complaint,
            'zone' => $zone,
            'page' => $cluster === null
                ? null
                : StatePage::of($cluster, $window, Clock::seconds(), $zone, $this->store, $this->events, $this->locks),
        ]);
    }
}
