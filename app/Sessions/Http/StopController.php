<?php

declare(strict_types=1);

namespace App\Sessions\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Sessions\Application\SessionStops;
use App\Sessions\Http\Requests\StopSessionRequest;
use Illuminate\Http\RedirectResponse;

final readonly class StopController
{
    public function __construct(private SessionStops $stops)
    {
    }

    public function stop(StopSessionRequest $request, Cluster $cluster): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $session = $request->integer('session');
        try {
            $done = $request->input('act') === 'cancel'
                ? $this->stops->cancel($user, $cluster, $session, $request->string('statement')->toString())
                : $this->stops->end($user, $cluster, $session);
        } catch (SourceError $error) {
            return back()->with('failed', $error->getMessage());
        }

        return back()->with('done', $done);
    }
}
