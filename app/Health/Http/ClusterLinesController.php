<?php

declare(strict_types=1);

namespace App\Health\Http;

use App\Health\Application\ClusterLines;
use App\Platform\Models\User;
use App\Platform\Support\AskedMoment;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/**
 * All clusters at a moment, as a part of their page.
 */
final readonly class ClusterLinesController
{
    public function __invoke(Request $request, ClusterLines $lines, #[CurrentUser] User $user): View
    {
        $asked = AskedMoment::of($request, $user->zone());

        return view('health.clusters', [
            'lines' => $lines->at($asked->at), 'at' => $asked->at, 'text' => $asked->text, 'complaint' => $asked->complaint,
            'zone' => $user->zone(),
        ]);
    }
}
