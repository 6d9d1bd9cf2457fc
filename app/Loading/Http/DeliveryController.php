<?php

declare(strict_types=1);

namespace App\Loading\Http;

use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Metrics\Http\SentBody;
use App\Platform\Support\Clock;
use Fulcrion\Core\Loading\DeliveryLog;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes logs of deliveries from programs, for the cluster of the token.
 */
final readonly class DeliveryController
{
    private const MOST_BYTES = 20_000_000;

    private const LONGEST_NAME = 120;

    public function __construct(private DeliveryBook $book, private LoadingFindings $findings)
    {
    }

    public function __invoke(Request $request, string $name): JsonResponse
    {
        $sent = SentBody::of($request, self::MOST_BYTES, '20 MB');
        if ($sent instanceof JsonResponse) {
            return $sent;
        }
        if (mb_strlen($name) > self::LONGEST_NAME) {
            return response()->json(['message' => 'A name has at most 120 characters. Nothing was taken.'], 413);
        }
        $log = DeliveryLog::read(mb_scrub($sent->text));
        $measure = $this->book->keep($sent->cluster, $name, $log->files);
        if ($measure === null) {
            return response()->json(['message' => 'No file took any time. '.implode(' ', $log->complaints)], 400);
        }
        $this->findings->report($sent->cluster, Clock::seconds());

        return response()->json(['files' => $measure->files, 'bytes' => $measure->bytes, 'seconds' => $measure->seconds,
            'complaints' => $log->complaints]);
    }
}
