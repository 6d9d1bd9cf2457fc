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

    /**
     * @param  string  $most how many bytes that are, for people
     */
    public static function of(Request $request, int $mostBytes = self::MAX_BYTES, string $most = '16 MiB'): self|JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['message' => 'This token may not send metrics.'], 403);
        }
        $body = $request->getContent();
        if (str_starts_with($body, "\x1f\x8b")) {
            $body = @gzdecode($body, $mostBytes);
        }
        if ($body === false || strlen($body) > $mostBytes) {
            return response()->json(
                ['message' => "A body holds at most {$most}, and gzip of it has to be whole. Nothing was taken. Send smaller parts."],
                413,
            );
        }

        return new self($cluster, $body);
    }
}
