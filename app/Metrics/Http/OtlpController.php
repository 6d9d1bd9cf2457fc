<?php

declare(strict_types=1);

namespace App\Metrics\Http;

use App\Metrics\Intake\MetricIntake;
use App\Metrics\Intake\SourceKind;
use Fulcrion\Core\Metrics\Wire\OtlpReader;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes metrics of the OpenTelemetry protocol as JSON (OTLP/HTTP), for the cluster of the token.
 */
final readonly class OtlpController
{
    public function __construct(private MetricIntake $intake)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $sent = SentBody::of($request);
        if ($sent instanceof JsonResponse) {
            return $sent;
        }
        if (! str_contains(strtolower($request->headers->get('Content-Type') ?? ''), 'json')) {
            return response()->json(['message' => 'Metrics are taken as JSON: set the protocol of the exporter to http/json.'], 415);
        }
        $reception = OtlpReader::read($sent->text);
        if ($reception->values === [] && $reception->refused > 0) {
            return response()->json(['message' => implode('; ', $reception->complaints)], 400);
        }
        $result = $this->intake->take($sent->cluster, $reception, SourceKind::Otlp, $sent->cluster->name);

        // As the protocol says it: all was taken, or so many points were not.
        return response()->json($result->refused === 0 ? (object) [] : [
            'partialSuccess' => ['rejectedDataPoints' => (string) $result->refused, 'errorMessage' => $result->words()],
        ], 200, [], JSON_INVALID_UTF8_SUBSTITUTE);
    }
}
