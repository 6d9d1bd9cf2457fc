<?php

declare(strict_types=1);

namespace App\Telemetry\Console;

use App\Estate\Models\Cluster;
use App\Telemetry\Intake\ImportRunner;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\CsvSource;
use App\Telemetry\Sources\Format;
use App\Telemetry\Sources\LineFile;
use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;
use RuntimeException;

final class ImportCommand extends Command
{
    protected $signature = 'telemetry:import {file : JSON Lines, CSV with header or slow query log, plain or gzip}
        {--cluster= : name of the cluster the executions ran on}
        {--format= : jsonl, csv or slow_log; told by the first lines when left out}
        {--column=* : for CSV: field=column or field=column:unit with unit us, ms or s}';

    protected $description = 'Reads executions from a file into the store; a file read twice changes nothing twice';

    public function handle(ImportRunner $runner): int
    {
        $path = (string) $this->input->getArgument('file');
        $name = (string) $this->input->getOption('cluster');
        $cluster = Cluster::query()->where('slug', $name)->orWhere('name', $name)->first();
        if ($cluster === null) {
            $known = Cluster::query()->orderBy('slug')->pluck('slug')->implode(', ');
            $this->components->error("No cluster \"{$name}\". Name one with --cluster=: {$known}");

            return self::INVALID;
        }
        try {
            $format =
                $this->option('format') === null
                    ? Format::detect(new LineFile($path))
                    : Format::tryFrom((string) $this->input->getOption('format')) ??
                        throw new RuntimeException('--format is jsonl, csv or slow_log');
            $columns = $format === Format::Csv ? $this->columns($path, $cluster) : null;
        } catch (RuntimeException $exception) {
            $this->components->error($exception->getMessage());

            return self::INVALID;
        }
        $import = new Import();
        $import
            ->forceFill([
                'cluster_id' => $cluster->id,
                'file_name' => basename($path),
                'path' => (string) realpath($path),
                'format' => $format,
                'columns' => $columns,
                'state' => 'waiting',
                'bytes_total' => (int) filesize($path),
                'accepted' => 0,
                'repeated' => 0,
                'rejected' => 0,
            ])
            ->save();
        // Ctrl+C asks the run to end after the batch in hand.
        $this->trap([SIGINT, SIGTERM], $import->askToStop(...));
        $runner->run($import, function (Import $import): void {
            $this->output->write(
                sprintf(
                    "\r  %3d%%  %s taken, %s repeated, %s set aside, %s records a second   ",
                    (int) ($import->progress() * 100),
                    Quantity::count($import->accepted),
                    Quantity::count($import->repeated),
                    Quantity::count($import->rejected),
                    Quantity::count(round($import->recordsPerSecond() ?? 0)),
                ),
            );
        });
        $this->newLine();
        if ($import->rejected > 0) {
            $reason = DB::table('rejected_records')->where('import_id', $import->id)->orderBy('line')->first();
            $where = $reason === null ? '' : ", the first in line {$reason->line}: {$reason->field} {$reason->reason}";
            $this->components->warn(
                "{$import->rejected} records were set aside{$where}. See Tune > Imports > {$import->id}.",
            );
        }
        if ($import->state === 'failed') {
            $this->components->error((string) $import->error);

            return self::FAILURE;
        }
        if ($import->state === 'stopped') {
            $this->components->warn('Stopped. What was taken stays; run the same file again to go on.');
        }

        return self::SUCCESS;
    }

    /**
     * @return array<string, array{column: string, unit: string}>
     */
    private function columns(string $path, Cluster $cluster): array
    {
        $head = CsvSource::head(new LineFile($path)) ?? throw new RuntimeException("{$path} is empty.");
        $saved = DB::table('column_maps')
            ->where('cluster_id', $cluster->id)
            ->where('header_digest', hash('xxh3', implode("\0", $head[1])))
            ->value('columns');
        $fields = is_string($saved) ? (array) json_decode($saved, true) : ColumnMap::guess($head[1])->fields;
        foreach ((array) $this->option('column') as $option) {
            if (preg_match('~^(\w+)=(.+?)(?::(us|ms|s))?$~', (string) $option, $m) !== 1 || ! in_array($m[2], $head[1], true)) {
                throw new RuntimeException(
                    "--column={$option}: write field=column or field=column:ms with a column of the file: ".implode(', ', $head[1]),
                );
            }
            $fields[$m[1]] = ['column' => $m[2], 'unit' => $m[3] ?? 'us'];
        }
        /** @var array<string, array{column: string, unit: string}> $fields */
        $missing = (new ColumnMap($fields))->missing();
        if ($missing !== []) {
            throw new RuntimeException(
                'No column for '.implode(', ', $missing).'. Name it with --column=field=column. Columns: '.implode(', ', $head[1]),
            );
        }

        return $fields;
    }
}
