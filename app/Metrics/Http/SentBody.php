<?php

declare(strict_types=1);

namespace App\Metrics\Http;

use App\Estate\Models\Cluster;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * What was sent with a token that may send metrics, unpacked.
 */
final readonly class SentBody
{
    public const ABILITY = 'metrics:write';

    private const MAX_BYTES = 16_777_216;

    private function __construct(public Cluster $cluster, public string $text)
    {
    }

    public static function of(Request $request): self|JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['message' => 'This token may not send metrics.'], 403);
        }
        $body = $request->getContent();
        if (str_starts_with($body, "\x1f\x8b")) {
            $body = @gzdecode($body, self::MAX_BYTES);
        }
        if ($body === false || strlen($body) > self::MAX_BYTES) {
            return response()->json(
                ['message' => 'A body holds at most 16 MiB, and gzip of it has to be whole. Nothing was taken. Send smaller parts.'],
                413,
            );
        }

        return new self($cluster, $body);
    }
}
