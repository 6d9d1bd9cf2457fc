<?php

declare(strict_types=1);

namespace App\Telemetry\Intake;

use App\Platform\Runs\RunStopped;
use App\Platform\Support\Clock;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\CsvSource;
use App\Telemetry\Sources\DamagedFile;
use App\Telemetry\Sources\Format;
use App\Telemetry\Sources\JsonLinesSource;
use App\Telemetry\Sources\LineFile;
use App\Telemetry\Sources\RecordSource;
use App\Telemetry\Sources\SlowLogSource;
use App\Telemetry\Store\ExecutionBatch;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Store\Store;
use Closure;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Generator;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;

/**
 * Reads a file into the store, batch by batch. Every batch is one transaction with the progress it made, so an import
 * that is cut off anywhere can be run again without counting anything twice.
 */
final readonly class ImportRunner
{
    public function __construct(private Store $store, private Encrypter $encrypter, private PlanStore $plans)
    {
    }

    /**
     * @param  (Closure(Import): void)|null  $progress called after each batch
     */
    public function run(Import $import, ?Closure $progress = null): void
    {
        $import->carryOut(fn (): array => $this->read($import, $progress));
    }

    /**
     * @param  (Closure(Import): void)|null  $progress
     * @return array<string, mixed>
     *
     * @throws DamagedFile
     * @throws RunStopped
     */
    private function read(Import $import, ?Closure $progress): array
    {
        $file = new LineFile((string) $import->path);
        $import->bytes_total = $file->bytesTotal;
        $cluster = $import->cluster;
        $dialect = $import->format === Format::SlowLog ? Dialect::MariaDb : $cluster->dialect;
        $fingerprinter = new Fingerprinter($dialect);
        $size = (int) config('fulcrion.import.batch');
        $batch = new ExecutionBatch();
        $rejections = [];
        $damage = null;
        $records = $this->source($import)->records($file, new ExecutionReader(Clock::microseconds()));
        $plans = new LoggedPlans($this->plans);
        foreach (self::untilDamage($records, $damage) as $line => $found) {
            [$raw, $execution] = $found;
            if (! ($execution instanceof Rejection)) {
                $execution = $cluster->refuse($execution) ?? $execution;
            }
            if ($execution instanceof Rejection) {
                $rejections[] = [$line, $execution, $raw];
            } else {
                $statement = $fingerprinter->of($execution->sql);
                $batch->add($execution, $statement);
                if (isset($found[2])) {
                    $plans->add($statement->id, $found[2], $execution);
                }
            }
            if ($batch->isFull($size) || count($rejections) >= 1000) {
                $this->flush($import, $batch, $rejections, $file);
                $batch = new ExecutionBatch();
                $rejections = [];
                if ($progress !== null) {
                    $progress($import);
                }
                if ($import->stopAsked()) {
                    throw new RunStopped();
                }
            }
        }
        $this->flush($import, $batch, $rejections, $file);
        $plans->keep($import->cluster_id);
        if ($damage !== null) {
            throw $damage;
        }
        $import->forceFill(['bytes_read' => $file->bytesTotal])->save();
        if ($progress !== null) {
            $progress($import);
        }

        return [];
    }

    /**
     * What could be read is kept, and the damage told afterwards.
     *
     * @param  Generator<int, array{0: string, 1: Execution|Rejection, 2?: Plan|null}>  $records
     * @return Generator<int, array{0: string, 1: Execution|Rejection, 2?: Plan|null}>
     */
    private static function untilDamage(Generator $records, ?DamagedFile &$damage): Generator
    {
        try {
            yield from $records;
        } catch (DamagedFile $exception) {
            $damage = $exception;
        }
    }

    private function source(Import $import): RecordSource
    {
        return match ($import->format) {
            Format::JsonLines => new JsonLinesSource(),
            Format::SlowLog => new SlowLogSource(),
            Format::Csv => new CsvSource(new ColumnMap($import->columns ?? [])),
        };
    }

    /**
     * @param  list<array{int, Rejection, string}>  $rejections
     */
    private function flush(Import $import, ExecutionBatch $batch, array $rejections, LineFile $file): void
    {
        if ($batch->records !== []) {
            // Not at the model for each record: that would take as long as reading it.
            $starts = array_map(static fn (array $record): int => $record[0]->startedAtUs, $batch->records);
            $import->first_us = min($import->first_us ?? PHP_INT_MAX, ...$starts);
            $import->last_us = max($import->last_us ?? 0, ...$starts);
        }
        $before = [$import->accepted, $import->repeated, $import->rejected];
        $this->store->writeSound($import->cluster, $batch, function (array $counts, array $refused) use (
            $import,
            $rejections,
            $file,
            $before,
        ): void {
            foreach ($refused as $i => $execution) {
                // Which line it was is not known any more; its number is counted from the end of the file on.
                $rejections[] = [
                    $file->line + $i,
                    new Rejection('(record)', 'holds numbers or bytes the store cannot add up'),
                    $execution->sql,
                ];
            }
            $rows = [];
            foreach ($rejections as [$line, $rejection, $raw]) {
                $rows[] = [
                    'import_id' => $import->id,
                    'line' => $line,
                    'field' => mb_strcut($rejection->field, 0, 60),
                    'reason' => mb_strcut(mb_scrub($rejection->reason, 'UTF-8'), 0, 255),
                    'sealed' => $this->encrypter->encrypt($raw, false),
                ];
            }
            foreach (array_chunk($rows, 200) as $chunk) {
                DB::table('rejected_records')->upsert($chunk, ['import_id', 'line'], ['field', 'reason', 'sealed']);
            }
            // Set, not added: a retried transaction must not count twice.
            $import
                ->forceFill([
                    'accepted' => $before[0] + $counts['taken'],
                    'repeated' => $before[1] + $counts['repeated'],
                    'rejected' => $before[2] + count($rejections),
                    'bytes_read' => min($file->bytesRead, $file->bytesTotal),
                    'heartbeat_us' => Clock::microseconds(),
                ])
                ->save();
        });
    }
}
