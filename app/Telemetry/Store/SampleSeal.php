<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Fulcrion\Core\Telemetry\Execution;
use Illuminate\Contracts\Encryption\Encrypter;
use RuntimeException;

/**
 * Samples as they lie in the store: compressed and encrypted, since texts and binds can be personal data.
 */
final class SampleSeal
{
    /**
     * @param  list<array{durationUs: int, lot: string, slow: bool, sample: Execution|array<string, mixed>}>  $kept
     */
    public static function seal(Encrypter $encrypter, array $kept): string
    {
        $plain = [];
        foreach ($kept as $entry) {
            $sample = $entry['sample'];
            $plain[] =
                ['lot' => $entry['lot'], 'slow' => $entry['slow']] + ($sample instanceof Execution ? self::describe($sample) : $sample);
        }

        return $encrypter->encrypt(
            (string) gzdeflate((string) json_encode($plain, JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE), 1),
            false,
        );
    }

    /**
     * @return list<array<string, mixed>> fields of an execution record, and `lot` and `slow`
     */
    public static function open(Encrypter $encrypter, string $sealed): array
    {
        $plain = gzinflate((string) $encrypter->decrypt($sealed, false));
        $samples = $plain === false ? null : json_decode($plain, true);
        if (! is_array($samples)) {
            throw new RuntimeException('A stored sample cannot be read: was the application key changed?');
        }

        return array_values($samples);
    }

    /**
     * @return array<string, mixed>
     */
    private static function describe(Execution $execution): array
    {
        // Beyond this a text is evidence of its length only.
        $sql = strlen($execution->sql) > 65_536 ? substr($execution->sql, 0, 65_536).' ...' : $execution->sql;

        return array_filter(
            [
                'started_at_us' => $execution->startedAtUs,
                'duration_us' => $execution->durationUs,
                'sql' => $sql,
                'database' => $execution->origin->database,
                'user' => $execution->origin->user,
                'application' => $execution->origin->application,
                'client_host' => $execution->origin->clientHost,
                'queue' => $execution->origin->queue,
                'status' => $execution->outcome->status->value,
                'error' => $execution->outcome->error,
                'rows_returned' => $execution->work->rowsReturned,
                'rows_examined' => $execution->work->rowsExamined,
                'rows_affected' => $execution->work->rowsAffected,
                'bytes_scanned' => $execution->work->bytesScanned,
                'bytes_spilled' => $execution->work->bytesSpilled,
                'lock_us' => $execution->times->lockUs,
                'queued_us' => $execution->times->queuedUs,
                'cpu_us' => $execution->times->cpuUs,
                'full_scan' => $execution->work->fullScan,
                'index_used' => $execution->work->indexUsed,
                'warnings' => $execution->outcome->warnings === [] ? null : $execution->outcome->warnings,
                'binds' => $execution->binds,
                'plan_ref' => $execution->planRef,
            ],
            static fn (mixed $value): bool => $value !== null && $value !== '',
        );
    }
}
