<?php

declare(strict_types=1);

namespace App\Telemetry\Http;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\ExecutionBatch;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes executions over HTTP: a body of JSON Lines, for the cluster of the token.
 */
final readonly class ExecutionsController
{
    private const MAX_BYTES = 67_108_864;

    private const REASONS = 1_000;

    public function __construct(private Store $store)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan('executions:write')) {
            return response()->json(['error' => 'This token may not send executions.'], 403);
        }
        $body = $request->getContent();
        if (strtolower($request->headers->get('Content-Encoding') ?? '') === 'gzip' || str_starts_with($body, "\x1f\x8b")) {
            $plain = @gzdecode($body, self::MAX_BYTES);
            if ($plain === false) {
                return response()->json(
                    ['error' => 'The gzip body is damaged, or holds more than 64 MiB. Nothing was taken. Send smaller parts.'],
                    400,
                );
            }
            $body = $plain;
        }
        if (strlen($body) > self::MAX_BYTES) {
            return response()->json(['error' => 'A body holds at most 64 MiB. Nothing was taken. Send smaller parts.'], 413);
        }
        $reader = new ExecutionReader(Clock::microseconds());
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $size = (int) config('fulcrion.import.batch');
        $counts = ['taken' => 0, 'set_aside' => 0, 'repeated' => 0];
        $reasons = [];
        $batch = new ExecutionBatch();
        $number = 0;
        for ($at = 0, $length = strlen($body); $at < $length; $at = $end + 1) {
            $end = strpos($body, "\n", $at);
            $end = $end === false ? $length : $end;
            $line = substr($body, $at, $end - $at);
            $number++;
            if (trim($line) === '') {
                continue;
            }
            $execution = $reader->line($line);
            if (! ($execution instanceof Rejection)) {
                $execution = $cluster->refuse($execution) ?? $execution;
            }
            if ($execution instanceof Rejection) {
                $counts['set_aside']++;
                if (count($reasons) < self::REASONS) {
                    $reasons[] = ['line' => $number, 'field' => $execution->field, 'reason' => $execution->reason];
                }

                continue;
            }
            $batch->add($execution, $fingerprinter->of($execution->sql));
            if ($batch->isFull($size)) {
                $this->write($cluster, $batch, $counts);
                $batch = new ExecutionBatch();
            }
        }
        $this->write($cluster, $batch, $counts);

        return response()->json(
            $counts + ['reasons' => $reasons],
            $counts['taken'] + $counts['repeated'] === 0 && $counts['set_aside'] > 0 ? 422 : 200,
            [],
            JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }

    /**
     * @param  array{taken: int, set_aside: int, repeated: int}  $counts
     */
    private function write(Cluster $cluster, ExecutionBatch $batch, array &$counts): void
    {
        if ($batch->size() > 0) {
            [$written, $refused] = $this->store->writeSound($cluster, $batch);
            $counts['taken'] += $written['taken'];
            $counts['repeated'] += $written['repeated'];
            $counts['set_aside'] += count($refused);
        }
    }
}
