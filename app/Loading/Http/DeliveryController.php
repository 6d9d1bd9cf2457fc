<?php

declare(strict_types=1);

namespace App\Loading\Http;

use App\Estate\Models\Cluster;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Platform\Support\Clock;
use Fulcrion\Core\Loading\DeliveryLog;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes logs of deliveries from programs, for the cluster of the token.
 */
final readonly class DeliveryController
{
    public const ABILITY = 'metrics:write';

    private const MOST_BYTES = 20_000_000;

    public function __construct(private DeliveryBook $book, private LoadingFindings $findings)
    {
    }

    public function __invoke(Request $request, string $name): JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['message' => 'This token may not send metrics.'], 403);
        }
        $text = $request->getContent();
        if (strlen($text) > self::MOST_BYTES || mb_strlen($name) > 120) {
            return response()->json(['message' => 'A log has at most 20 MB, and a name 120 characters. Nothing was taken.'], 413);
        }
        $log = DeliveryLog::read(mb_scrub($text));
        $measure = $this->book->keep($cluster, $name, $log->files);
        if ($measure === null) {
            return response()->json(['message' => 'No file took any time. '.implode(' ', $log->complaints)], 400);
        }
        $this->findings->report($cluster, Clock::seconds());

        return response()->json(['files' => $measure->files, 'bytes' => $measure->bytes, 'seconds' => $measure->seconds,
            'complaints' => $log->complaints]);
    }
}
