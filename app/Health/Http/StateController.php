<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Estate\Models\Cluster;
use App\Health\Application\MetricStore;
use App\Health\Application\RowLockTime;
use App\Health\Application\ServerEvents;
use App\Health\Application\StatePage;
use App\Platform\Figures\TimeMarks;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use DateTimeZone;
use Fulcrion\Core\Time\Window;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use InvalidArgumentException;

final readonly class StateController
{
    private const WINDOW = 'last hour';

    public function __construct(
        private MetricStore $store,
        private ServerEvents $events,
        private RowLockTime $locks,
        private TimeMarks $marks,
    ) {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $live = Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('name')->get();
        $cluster = Cluster::chosen($live, $request->query('cluster'));
        $zone = $user->zone();
        $asked = AskedWindow::of($request, self::WINDOW, $zone);

        return view('health.state', [
            'live' => $live,
            'cluster' => $cluster,
            'text' => $asked->text,
            'complaint' => $asked->complaint,
            'zone' => $zone,
            'page' => $cluster === null ? null : $this->page($cluster, $asked->window, $zone),
        ]);
    }

    /** Few of its charts, below the load of its statements in the same window. */
    public function beside(Request $request, #[CurrentUser] User $user): View
    {
        $cluster = Cluster::query()->where('slug', (string) $request->query('cluster'))->where('connector', 'mariadb')->firstOrFail();
        $zone = $user->zone();
        try {
            $window = WindowText::parse($request->query->getString('window'), Clock::seconds(), $zone);
        } catch (InvalidArgumentException $exception) {
            abort(422, $exception->getMessage());
        }

        return view('health.state-beside', [
            'cluster' => $cluster,
            'text' => $request->query->getString('window'),
            'page' => $this->page($cluster, $window, $zone),
        ]);
    }

    private function page(Cluster $cluster, Window $window, DateTimeZone $zone): StatePage
    {
        $marks = $this->marks->of($cluster->id, $window->from, $window->to);

        return StatePage::of($cluster, $window, Clock::seconds(), $zone, $this->store, $this->events, $this->locks, $marks);
    }
}
