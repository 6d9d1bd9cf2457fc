<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use App\Jobs\Application\JobIntake;
use App\Jobs\Application\Sources\PieceFile;
use App\Telemetry\Sources\CsvSource;
use App\Telemetry\Sources\DamagedFile;
use App\Telemetry\Sources\JsonLinesSource;
use App\Telemetry\Sources\LineFile;
use App\Telemetry\Sources\RecordSource;
use App\Telemetry\Sources\SlowLogSource;
use ErrorException;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\ParquetWriter;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Text\JsonError;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Throwable;

/**
 * Files of every kind that is read, damaged at random. Whatever is read ends in records, in records set aside or in an error
 * of ours; soon, in little memory, and no line of a text is left without an answer.
 */
final class DamageAttack
{
    public const KINDS = ['jsonl', 'csv', 'slow', 'jsonl.gz', 'csv.gz', 'parquet', 'plan', 'sql', 'job', 'job.csv'];

    private const HEAD = 'started_at,duration_us,sql,user,rows_examined';

    public int $inputs = 0;

    public int $records = 0;

    public int $setAside = 0;

    public int $refused = 0;

    public float $longestSeconds = 0.0;

    public int $peakBytes = 0;

    /** @var list<string> */
    public array $uncaught = [];

    /** @var list<string> inputs of which a line got no answer */
    public array $unanswered = [];

    private readonly Fingerprinter $fingerprinter;

    /**
     * @param  string  $directory for files, which the caller removes
     */
    public function __construct(private readonly string $directory)
    {
        $this->fingerprinter = new Fingerprinter(Dialect::Ansi, 100);
    }

    public function attack(int $inputs, int $seed): void
    {
        $random = new Randomizer(new Mt19937($seed));
        for ($i = 0; $i < $inputs; $i++) {
            $kind = self::KINDS[$i % count(self::KINDS)];
            $bytes = $this->damaged(self::whole($kind, $random), $random);
            $this->inputs++;
            memory_reset_peak_usage();
            $before = memory_get_usage();
            $began = hrtime(true);
            set_error_handler(
                static fn (int $level, string $message, string $file, int $line): bool => (error_reporting() & $level) !== 0 &&
                    throw new ErrorException($message, 0, $level, $file, $line),
            );
            try {
                $this->read($kind, $bytes);
            } catch (DamagedFile|ParquetError|PlanError|SyntaxError|JsonError) {
                $this->refused++;
            } catch (Throwable $error) {
                $this->uncaught[] =
                    "{$kind}: ".$error::class." {$error->getMessage()} at ".basename($error->getFile()).":{$error->getLine()}";
            } finally {
                restore_error_handler();
            }
            $this->longestSeconds = max($this->longestSeconds, (hrtime(true) - $began) / 1e9);
            $this->peakBytes = max($this->peakBytes, memory_get_peak_usage() - $before);
        }
    }

    private function read(string $kind, string $bytes): void
    {
        match ($kind) {
            'parquet' => $this->parquet($bytes),
            'plan' => Plan::read($bytes),
            'sql' => (new Parser())->statement($bytes),
            'job', 'job.csv' => $this->job($bytes),
            default => $this->lines($kind, $bytes),
        };
    }

    private function lines(string $kind, string $bytes): void
    {
        $path = "{$this->directory}/{$kind}";
        file_put_contents($path, $bytes);
        $source = match (explode('.', $kind)[0]) {
            'jsonl' => new JsonLinesSource(),
            'csv' => new CsvSource(ColumnMap::guess(explode(',', self::HEAD))),
            default => new SlowLogSource(),
        };
        $file = new LineFile($path);
        $answered = $this->answers($source, $file);
        if (
            $kind === 'jsonl' &&
            $answered !==
                count(array_filter(explode("\n", $bytes), static fn (string $line): bool => trim($line) !== '' && $line !== "\xEF\xBB\xBF"))
        ) {
            $this->unanswered[] = "{$kind}: {$answered} answers to ".bin2hex(substr($bytes, 0, 80));
        }
    }

    private function answers(RecordSource $source, LineFile $file): int
    {
        $answered = 0;
        foreach ($source->records($file, new ExecutionReader(2_000_000_000_000_000)) as [, $one]) {
            $answered++;
            if ($one instanceof Execution) {
                $this->records++;
                $this->fingerprinter->of($one->sql);
            } else {
                $this->setAside++;
            }
        }

        return $answered;
    }

    private function job(string $bytes): void
    {
        $path = "{$this->directory}/job";
        file_put_contents($path, $bytes);
        $file = new PieceFile($path);
        foreach (JobIntake::source($file)->items($file) as $item) {
            if ($item instanceof JobProblem) {
                $this->setAside++;
            } else {
                $this->records++;
            }
        }
    }

    private function parquet(string $bytes): void
    {
        $reader = ParquetReader::open(new StringSource($bytes));
        foreach ($reader->columns as $column) {
            $this->records += count($reader->readAll($column->name));
        }
    }

    private static function whole(string $kind, Randomizer $random): string
    {
        $rows = [];
        for ($i = 0, $count = $random->getInt(1, 12); $i < $count; $i++) {
            $rows[] = [
                'started_at' => gmdate('Y-m-d\TH:i:s\Z', 1_795_000_000 + $i),
                'duration_us' => $random->getInt(0, 900_000),
                'sql' => [
                    "SELECT a, 'it''s' FROM t WHERE b = {$i}",
                    "SELECT\n  \"x y\" -- a remark\nFROM t",
                    'UPDATE t SET a = ? WHERE b IN (1, 2, 3)',
                ][$random->getInt(0, 2)],
                'user' => 'ada',
                'rows_examined' => $i,
            ];
        }
        $json = static fn (): string => implode(
            '',
            array_map(static fn (array $row): string => json_encode($row, JSON_THROW_ON_ERROR)."\n", $rows),
        );
        $csv = static fn (): string => self::HEAD.
            "\n".
            implode(
                '',
                array_map(
                    static fn (array $row): string => implode(
                        ',',
                        array_map(
                            static fn (int|string $cell): string => is_string($cell) && preg_match('~[",\n]~', $cell) === 1
                                ? '"'.str_replace('"', '""', $cell).'"'
                                : (string) $cell,
                            $row,
                        ),
                    )."\n",
                    $rows,
                ),
            );

        return match ($kind) {
            'jsonl' => $json(),
            'jsonl.gz' => (string) gzencode($json()),
            'csv' => $csv(),
            'csv.gz' => (string) gzencode($csv()),
            'slow' => implode(
                '',
                array_map(
                    static fn (
                        array $row,
                    ): string => "# Time: 261120 10:00:00\n# User@Host: ada[ada] @ localhost []\n# Thread_id: 5  Schema: field  QC_hit: "
                        ."No\n# Query_time: 0.{$row['duration_us']}  Lock_time: 0.0  Rows_sent: 1  "
                        ."Rows_examined: {$row['rows_examined']}\nSET timestamp=1795000000;\n{$row['sql']};\n",
                    $rows,
                ),
            ),
            'parquet' => (new ParquetWriter($random->getInt(0, 1) === 0 ? Compression::None : Compression::Gzip))->write(
                [
                    new Column('n', ColumnType::of(TypeKind::Bigint)),
                    new Column('t', ColumnType::of(TypeKind::Text)),
                    new Column('m', ColumnType::decimal(9, 2)),
                    new Column('d', ColumnType::of(TypeKind::Double), false),
                ],
                [
                    array_keys($rows),
                    array_column($rows, 'sql'),
                    array_column($rows, 'duration_us'),
                    array_map(static fn (int $i): float => $i / 8, array_keys($rows)),
                ],
            ),
            'plan' => (string) json_encode([
                'query_block' => [
                    'select_id' => 1,
                    'cost' => 0.5,
                    'r_total_time_ms' => 1.5,
                    'nested_loop' => array_map(
                        static fn (int $i): array => [
                            'table' => [
                                'table_name' => "t{$i}",
                                'access_type' => 'ALL',
                                'rows' => $i * 10,
                                'r_rows' => $i,
                                'filtered' => 50,
                                'attached_condition' => "t{$i}.a > 5",
                            ],
                        ],
                        range(1, count($rows)),
                    ),
                ],
            ]),
            'job' => (string) json_encode([
                'id' => 'run 1',
                'name' => 'nightly',
                'started_at' => '2026-11-20T01:00:00Z',
                'ended_at' => '2026-11-20T02:00:00Z',
                'state' => 'done',
                'workers' => 4,
                'stages' => [['id' => 'read', 'name' => 'read']],
                'tasks' => array_map(
                    static fn (array $row): array => [
                        'id' => "t{$row['rows_examined']}",
                        'stage' => 'read',
                        'worker' => 'w1',
                        'started_at' => $row['started_at'],
                        'ended_at' => '2026-11-20T02:00:00Z',
                        'bytes_read' => 5,
                    ],
                    $rows,
                ),
            ]),
            'job.csv' => "id,stage,worker,started_at,ended_at,bytes_read\n".
                implode(
                    '',
                    array_map(
                        static fn (array $row): string => "t{$row['rows_examined']},read,w1,{$row['started_at']},2026-11-20T02:00:00Z,5\n",
                        $rows,
                    ),
                ),
            default => $rows[0]['sql'],
        };
    }

    private function damaged(string $bytes, Randomizer $random): string
    {
        for ($times = $random->getInt(1, 4); $times > 0; $times--) {
            $length = strlen($bytes);
            $at = $length === 0 ? 0 : $random->getInt(0, $length - 1);
            $some = min($length - $at, $random->getInt(1, 40));
            $bytes = match ($random->getInt(0, 9)) {
                0 => substr($bytes, 0, $at),
                1 => substr_replace($bytes, chr($random->getInt(0, 255)), $at, 1),
                2 => substr_replace($bytes, $random->getBytes($random->getInt(1, 6)), $at, 0),
                3 => substr_replace($bytes, '', $at, $some),
                4 => substr_replace($bytes, substr($bytes, $at, $some), $at, 0),
                5 => substr_replace(
                    $bytes,
                    ['"', "'", '`', "\0", "\xff\xfe", '{', '[', '(', '\\', "\n", '/*', '--', '#', ';'][$random->getInt(0, 13)],
                    $at,
                    0,
                ),
                6 => substr_replace(
                    $bytes,
                    ['99999999999999999999999', '1e999', '-1', '1e-400', 'NaN', 'null', '18446744073709551615', '0x7fffffffffffffff'][
                        $random->getInt(0, 7)
                    ],
                    $at,
                    min($some, 5),
                ),
                7 => substr_replace(
                    $bytes,
                    str_repeat(['(', '[', '{"a":', '- ', "'", '1,', 'x ', '"'][$random->getInt(0, 7)], $random->getInt(100, 20_000)),
                    $at,
                    0,
                ),
                8 => substr($bytes, $at).substr($bytes, 0, $at),
                default => substr_replace($bytes, "\xff\xff\xff\x7f", $at, min(4, $some)),
            };
        }

        return $bytes;
    }
}
