<?php

declare(strict_types=1);

namespace App\Backup\Http;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Backup\BackupLog;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes what programs tell of the backups they took, for the cluster of the token.
 */
final readonly class BackupLogController
{
    public const ABILITY = 'metrics:write';

    private const MOST_BYTES = 20_000_000;

    public function __construct(private BackupBook $book, private BackupFindings $findings)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $cluster = $request->user('sanctum');
        if (! ($cluster instanceof Cluster) || ! $cluster->tokenCan(self::ABILITY)) {
            return response()->json(['message' => 'This token may not send metrics.'], 403);
        }
        $text = $request->getContent();
        if (strlen($text) > self::MOST_BYTES) {
            return response()->json(['message' => 'A log has at most 20 MB. Nothing was taken.'], 413);
        }
        $log = BackupLog::read(mb_scrub($text));
        if ($log->backups === []) {
            return response()->json(['message' => 'No backup was told of. '.implode(' ', $log->complaints)], 400);
        }
        $this->book->keep($cluster, $log->backups);
        $this->findings->report($cluster, Clock::microseconds());

        return response()->json(['backups' => count($log->backups), 'complaints' => $log->complaints]);
    }
}
