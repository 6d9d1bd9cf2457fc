<?php

declare(strict_types=1);

namespace App\Capacity\Http;

use App\Capacity\Application\StoragePage;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\AskedWindow;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/**
 * How full everything is, when it is full, and what could be given back.
 */
final readonly class StorageController
{
    private const WINDOW = 'last 28 days';

    public function __construct(private StoragePage $page)
    {
    }

    public function show(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = Cluster::productionFirst()->get();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));
        $zone = $user->zone();
        $asked = AskedWindow::of($request, self::WINDOW, $zone);
        $place = $request->query('place');

        return view('capacity.storage', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'zone' => $zone,
            'text' => $asked->text,
            'complaint' => $asked->complaint,
            'page' => $cluster === null ? null
                : $this->page->of($cluster, $asked->window, is_string($place) ? $place : null, Clock::seconds(), $zone),
        ]);
    }
}
