<?php

declare(strict_types=1);

namespace App\Alerts\Http;

use App\Alerts\Application\Deploys;
use App\Alerts\Http\Requests\DeployRequest;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Http\JsonResponse;

/**
 * Takes note of what programs deploy, for the cluster of the token.
 */
final readonly class DeployController
{
    public const ABILITY = 'deploys:write';

    public function __invoke(DeployRequest $request): JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['message' => 'This token may not note deploys.'], 403);
        }
        $at = $request->validated('at');
        Deploys::note($cluster->id, $at === null ? Clock::seconds() : (int) strtotime((string) $at), (string) $request->validated('name'),
            $request->validated('link'));

        return response()->json(['noted' => true]);
    }
}
