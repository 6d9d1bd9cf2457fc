<?php

declare(strict_types=1);

namespace App\Metrics\Http;

use App\Metrics\Events\HostBaselineSent;
use App\Metrics\Events\HostSettingsSent;
use App\Metrics\Intake\HostRequests;
use App\Metrics\Intake\MetricIntake;
use App\Metrics\Intake\SourceKind;
use App\Metrics\Store\ProcessStore;
use Fulcrion\Core\Metrics\Wire\HostReadingReader;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes readings of /proc from agents, for the cluster of the token.
 */
final readonly class HostReadingController
{
    public function __construct(private MetricIntake $intake, private ProcessStore $processes, private HostRequests $requests)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $sent = SentBody::of($request);
        if ($sent instanceof JsonResponse) {
            return $sent;
        }
        $readings = HostReadingReader::read($sent->text);
        if ($readings->reception->values === [] && $readings->reception->refused > 0) {
            return response()->json(['message' => implode('; ', $readings->reception->complaints)], 400);
        }
        $result = $this->intake->take($sent->cluster, $readings->reception, SourceKind::Agent, '', $readings->sentMs);

        $ahead = MetricIntake::ahead($readings->sentMs);
        foreach ($readings->processes as $atMs => $processes) {
            $this->processes->keep($sent->cluster->id, $readings->host, intdiv($atMs - $ahead, 1_000), $processes);
        }
        foreach ($readings->settings as $atMs => $files) {
            event(new HostSettingsSent($sent->cluster, $readings->host, $files, intdiv($atMs - $ahead, 1_000)));
        }
        foreach ($readings->baselines as $baseline) {
            event(new HostBaselineSent($sent->cluster, $readings->host, $baseline));
        }
        $asked = $this->requests->of($sent->cluster, $readings->host);

        return response()->json([
            'taken' => $result->taken, 'repeated' => $result->repeated, 'refused' => $result->refused, 'complaints' => $result->complaints,
        ] + ($asked === null ? [] : ['asked' => $asked]), 200, [], JSON_INVALID_UTF8_SUBSTITUTE);
    }
}
