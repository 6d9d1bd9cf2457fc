<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * Reading a million records of one day, beside the database's own bulk load of the same rows into a bare table; and
 * fewer records spread over a quarter of a year, of which nearly every one makes rows of its own at every level.
 */
final class ImportBench implements Measurement
{
    private const RECORDS = 1_000_000;

    private const SPREAD_RECORDS = 200_000;

    private const SPREAD_DAYS = 90;

    private const STATEMENTS = 500;

    private const COLUMNS = [
        'started_at',
        'duration_us',
        'sql',
        'database',
        'user',
        'application',
        'client_host',
        'rows_returned',
        'rows_examined',
        'bytes_scanned',
        'cpu_us',
        'full_scan',
    ];

    public function name(): string
    {
        return 'import';
    }

    public function run(Closure $say): iterable
    {
        $json = Scratch::folder().'/executions.jsonl';
        $csv = Scratch::folder().'/executions.csv';
        $say('writing a million records of one day');
        $this->write($json, $csv, self::RECORDS, 1);
        $this->fresh();
        DB::statement('CREATE TABLE bare (started_at VARCHAR(40), duration_us BIGINT, `sql` TEXT, `database` VARCHAR(190), user
        VARCHAR(190), application VARCHAR(190), client_host VARCHAR(190),
            rows_returned BIGINT, rows_examined BIGINT, bytes_scanned BIGINT, cpu_us BIGINT, full_scan TINYINT) ENGINE=InnoDB');
        $say('LOAD DATA LOCAL INFILE into a bare table');
        $began = hrtime(true);
        DB::connection()
            ->getPdo()
            ->exec(
                'LOAD DATA LOCAL INFILE '.
                    DB::connection()->getPdo()->quote($csv).
                    " INTO TABLE bare CHARACTER SET utf8mb4 FIELDS TERMINATED BY ',' ENCLOSED BY '\"' ESCAPED BY '' IGNORE 1 LINES",
            );
        $loadSeconds = (hrtime(true) - $began) / 1e9;
        if (DB::table('bare')->count() !== self::RECORDS) {
            throw new RuntimeException('The bulk load did not take every row.');
        }
        $say('telemetry:import of the same rows');
        $seconds = $this->import($json);
        $peak = (getrusage(1)['ru_maxrss'] ?? 0) / 1024;
        $taken = (int) DB::table('load_day')->sum('executions');
        yield BenchFigure::atLeast('records taken', $taken, self::RECORDS, 'records');
        yield BenchFigure::of('LOAD DATA LOCAL INFILE', $loadSeconds, 's');
        yield BenchFigure::of('import, whole process', $seconds, 's');
        yield BenchFigure::of('records a second', self::RECORDS / $seconds, 'records/s');
        yield BenchFigure::atMost('import / LOAD DATA', $seconds / $loadSeconds, 8, 'times');
        yield BenchFigure::atMost('peak memory of the import', $peak, 128, 'MiB');
        $say('the same file again');
        $this->import($json);
        yield BenchFigure::atMost(
            'executions counted twice by a second import',
            (int) DB::table('load_day')->sum('executions') - $taken,
            0,
            'records',
        );
        DB::statement('DROP TABLE bare');
        $say('records spread over '.self::SPREAD_DAYS.' days');
        $this->write($json, $csv, self::SPREAD_RECORDS, self::SPREAD_DAYS);
        $this->fresh();
        $seconds = $this->import($json);
        // The greatest of all processes so far, so that it holds for both.
        $peak = (getrusage(1)['ru_maxrss'] ?? 0) / 1024;
        yield BenchFigure::atLeast(
            'spread: records taken',
            (int) DB::table('load_day')->sum('executions'),
            self::SPREAD_RECORDS,
            'records',
        );
        yield BenchFigure::atMost('spread: import, whole process', $seconds, 40, 's');
        yield BenchFigure::atMost('spread: peak memory of the import', $peak, 128, 'MiB');
        unlink($json);
        unlink($csv);
    }

    private function fresh(): void
    {
        Scratch::fresh();
        Cluster::query()->create(['slug' => 'bench', 'name' => 'Bench', 'connector' => 'files', 'dialect' => Dialect::Ansi]);
    }

    /**
     * With the settings that ./fulcrion gives to its worker and console.
     *
     * @return float seconds
     */
    private function import(string $file): float
    {
        $began = hrtime(true);
        $process = proc_open(
            [
                PHP_BINARY,
                '-d',
                'opcache.enable_cli=1',
                '-d',
                'memory_limit=512M',
                base_path('artisan'),
                'telemetry:import',
                $file,
                '--cluster=bench',
            ],
            [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], STDERR],
            $pipes,
            base_path(),
            Scratch::environment(),
        );
        if ($process === false || proc_close($process) !== 0) {
            throw new RuntimeException('The import failed.');
        }

        return (hrtime(true) - $began) / 1e9;
    }

    private function write(string $json, string $csv, int $records, int $days): void
    {
        $workload = new GeneratedLoad(self::STATEMENTS);
        $jsonFile = fopen($json, 'wb');
        $csvFile = fopen($csv, 'wb');
        assert($jsonFile !== false && $csvFile !== false);
        fputcsv($csvFile, self::COLUMNS, ',', '"', '');
        $start = (intdiv(Clock::seconds(), 86_400) - $days) * 86_400;
        for ($i = 0; $i < $records; $i++) {
            $at = $start + ($i * ($days * 86_400 - 1)) / $records;
            $statement = $workload->pick();
            $duration = $workload->durationUs($statement);
            $record = [
                gmdate('Y-m-d\TH:i:s', (int) $at).sprintf('.%06dZ', (int) (fmod($at, 1) * 1e6)),
                $duration,
                $workload->text($statement),
                ['field', 'trade'][$statement % 2],
                ['boards', 'packhouse', 'agronomy'][$statement % 3],
                'bench',
                'host-'.$statement % 3,
                $workload->number(0, 500),
                $workload->number(500, 90_000),
                $workload->number(0, 9_000_000),
                (int) ($duration * 0.6),
                $statement % 2,
            ];
            fputcsv($csvFile, $record, ',', '"', '');
            $record[11] = (bool) $record[11];
            fwrite($jsonFile, json_encode(array_combine(self::COLUMNS, $record), JSON_UNESCAPED_SLASHES)."\n");
        }
        fclose($jsonFile);
        fclose($csvFile);
    }
}
