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
                'database' => $execution->database,
                'user' => $execution->user,
                'application' => $execution->application,
                'client_host' => $execution->clientHost,
                'queue' => $execution->queue,
                'status' => $execution->status->value,
                'error' => $execution->error,
                'rows_returned' => $execution->rowsReturned,
                'rows_examined' => $execution->rowsExamined,
                'rows_affected' => $execution->rowsAffected,
                'bytes_scanned' => $execution->bytesScanned,
                'bytes_spilled' => $execution->bytesSpilled,
                'lock_us' => $execution->lockUs,
                'queued_us' => $execution->queuedUs,
                'cpu_us' => $execution->cpuUs,
                'full_scan' => $execution->fullScan,
                'index_used' => $execution->indexUsed,
                'warnings' => $execution->warnings === [] ? null : $execution->warnings,
                'binds' => $execution->binds,
                'plan_ref' => $execution->planRef,
            ],
            static fn (mixed $value): bool => $value !== null && $value !== '',
        );
    }
}
