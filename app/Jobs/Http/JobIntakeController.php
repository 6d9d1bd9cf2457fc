<?php

declare(strict_types=1);

namespace App\Jobs\Http;

use App\Estate\Models\Cluster;
use App\Jobs\Application\RecordedJobs;
use App\Platform\Support\Uploads;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes records of parallel jobs over HTTP, for the cluster of the token. The same run may be sent again while it grows.
 */
final readonly class JobIntakeController
{
    private const MAX_BYTES = 134_217_728;

    public function __invoke(Request $request, RecordedJobs $recorded): JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan('executions:write')) {
            return response()->json(['error' => 'This token may not send records of jobs.'], 403);
        }
        $path = Uploads::path();
        try {
            $file = fopen($path, 'wb');
            assert($file !== false);
            // One more than may come, so that too much is noticed.
            $bytes = stream_copy_to_stream($request->getContent(true), $file, self::MAX_BYTES + 1);
            fclose($file);
            if ($bytes === 0 || $bytes > self::MAX_BYTES) {
                return response()->json(
                    [
                        'error' => $bytes === 0
                                ? 'The body is empty. Send a job as JSON, its tasks as CSV, or a trace as OTLP JSON.'
                                : 'A body holds at most 128 MiB. Nothing was taken. Compress it with gzip.',
                    ],
                    $bytes === 0 ? 400 : 413,
                );
            }
            $run = $recorded->begin($cluster, 'sent over HTTP', null, 'token of '.$cluster->name);
            $recorded->read($run, $path, [
                'name' => $request->query('name'),
                'workers' => is_numeric($request->query('workers')) ? (int) $request->query('workers') : null,
                'worker_price' => is_numeric($request->query('worker_price')) ? (float) $request->query('worker_price') : null,
            ]);
        } finally {
            @unlink($path);
        }
        if (! $run->isRun()) {
            $reasons = $run->problems ?? [];
            $run->delete();

            return response()->json(
                ['error' => 'The record was refused. Nothing was taken.', 'reasons' => $reasons],
                422,
                [],
                JSON_INVALID_UTF8_SUBSTITUTE,
            );
        }

        return response()->json(
            [
                'run' => $run->id,
                'state' => $run->state,
                'tasks' => $run->tasks,
                'noticed' => $run->problems ?? [],
                'page' => url(address('job.show', $run->id)),
            ],
            200,
            [],
            JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }
}
