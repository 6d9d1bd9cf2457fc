<?php

declare(strict_types=1);

namespace App\Backup\Http;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Metrics\Http\SentBody;
use App\Platform\Support\Clock;
use Fulcrion\Core\Backup\BackupLog;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/**
 * Takes what programs tell of the backups they took, for the cluster of the token.
 */
final readonly class BackupLogController
{
    private const MOST_BYTES = 20_000_000;

    public function __construct(private BackupBook $book, private BackupFindings $findings)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $sent = SentBody::of($request, self::MOST_BYTES, '20 MB');
        if ($sent instanceof JsonResponse) {
            return $sent;
        }
        $log = BackupLog::read(mb_scrub($sent->text));
        if ($log->backups === []) {
            return response()->json(['message' => 'No backup was told of. '.implode(' ', $log->complaints)], 400);
        }
        $this->book->keep($sent->cluster, $log->backups);
        $this->findings->report($sent->cluster, Clock::microseconds());

        return response()->json(['backups' => count($log->backups), 'complaints' => $log->complaints]);
    }
}
