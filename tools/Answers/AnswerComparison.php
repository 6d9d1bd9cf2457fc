<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Answers;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use PDO;
use PDOException;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * Runs the same queries on the practice cluster and on MariaDB and compares the whole results, row by row.
 */
final class AnswerComparison
{
    private const SEED = 2026;

    private readonly Engine $engine;

    private readonly Session $session;

    private readonly Limits $limits;

    private readonly Warehouse $warehouse;

    /**
     * @param  string  $directory for the practice cluster; removed by close()
     */
    public function __construct(private readonly PDO $mariaDb, string $directory)
    {
        $this->warehouse = Warehouse::create($directory, 'Answers', 3, new HardwareProfile());
        $this->engine = new Engine($this->warehouse);
        $this->session = new Session('answers', 'answers', 1_774_000_000_000_000);
        $this->limits = new Limits(60, 1_000_000, null, static fn (): int => (int) hrtime(true));
        $this->engine->run('CREATE SCHEMA answers', $this->session, $this->limits);
        $mariaDb->exec("SET SESSION sql_mode = 'ANSI_QUOTES,PIPES_AS_CONCAT', time_zone = '+00:00'");
        foreach (AnswerTables::all() as $name => [$columns, $rows, $options]) {
            $this->load($name, $columns, $rows, $options);
        }
    }

    public function close(): void
    {
        $this->warehouse->destroy();
        foreach (array_keys(AnswerTables::all()) as $name) {
            $this->mariaDb->exec("DROP TABLE IF EXISTS {$name}");
        }
    }

    /**
     * @return list<array{string, string}> query of the practice cluster, of MariaDB
     */
    public static function written(): array
    {
        $queries = [];
        foreach (Parts::split('~\n\s*\n~', trim((string) file_get_contents(__DIR__.'/written.sql'))) as $block) {
            $parts = explode("\n--= ", $block);
            $queries[] = [$parts[0], $parts[1] ?? $parts[0]];
        }

        return $queries;
    }

    /**
     * @return list<array{string, string}>
     */
    public static function generated(int $count): array
    {
        $generator = new QueryGenerator(new Randomizer(new Mt19937(self::SEED)));
        $queries = [];
        for ($i = 0; $i < $count; $i++) {
            $query = $generator->query();
            $queries[] = [$query, $query];
        }

        return $queries;
    }

    /**
     * @return string|null what differs; null when nothing does
     */
    public function difference(string $ours, string $theirs): ?string
    {
        try {
            $outcome = $this->engine->run($ours, $this->session, $this->limits);
        } catch (RuntimeException $exception) {
            return 'the practice cluster refuses: '.$exception->getMessage();
        }
        try {
            $asked = $this->mariaDb->query($theirs);
            $rows = $asked === false ? [] : $asked->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException $exception) {
            return 'MariaDB refuses: '.$exception->getMessage();
        }
        $own = array_map(fn (array $row): string => $this->canonical($row, $outcome->columns, true), $outcome->rows);
        $other = array_map(fn (array $row): string => $this->canonical(array_values($row), $outcome->columns, false), $rows);
        if (! str_contains($ours, 'ORDER BY')) {
            sort($own);
            sort($other);
        }
        if ($own === $other) {
            return null;
        }
        foreach (range(0, max(count($own), count($other))) as $i) {
            if (($own[$i] ?? '(no row)') !== ($other[$i] ?? '(no row)')) {
                return 'row '.
                    ($i + 1).
                    ': '.
                    ($own[$i] ?? '(no row)').
                    ' instead of '.
                    ($other[$i] ?? '(no row)').
                    ' ('.
                    count($own).
                    ' and '.
                    count($other).
                    ' rows)';
            }
        }

        return 'order';
    }

    /**
     * @param  list<mixed>  $row
     * @param  list<Column>  $columns
     */
    private function canonical(array $row, array $columns, bool $ours): string
    {
        $cells = [];
        foreach ($columns as $i => $column) {
            $value = $row[$i] ?? null;
            $cells[] = $value === null ? 'NULL' : $this->cell($ours ? $column->type->show($value) : (string) $value, $column->type);
        }

        return implode(' | ', $cells);
    }

    private function cell(string $text, ColumnType $type): string
    {
        return match ($type->kind) {
            TypeKind::Boolean => in_array($text, ['true', '1'], true) ? '1' : '0',
            TypeKind::Double => sprintf('%.9g', (float) $text + 0.0),
            TypeKind::Bigint, TypeKind::Decimal => str_contains($text, '.') ? rtrim(rtrim($text, '0'), '.') : $text,
            TypeKind::Timestamp => (string) preg_replace('~\.0+$~', '', strlen($text) === 10 ? "{$text} 00:00:00" : $text),
            TypeKind::Date => substr($text, 0, 10),
            TypeKind::Text => $text,
        };
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private function load(string $name, array $columns, array $rows, string $options): void
    {
        $ours = implode(
            ', ',
            array_map(
                static fn (Column $column): string => "{$column->name} {$column->type}".($column->nullable ? '' : ' NOT NULL'),
                $columns,
            ),
        );
        $this->engine->run("CREATE TABLE {$name} ({$ours}) {$options}", $this->session, $this->limits);
        $types = array_map(
            static fn (Column $column): string => "{$column->name} ".
                match ($column->type->kind) {
                    TypeKind::Text => 'VARCHAR(200) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin',
                    TypeKind::Timestamp => 'DATETIME(6)',
                    TypeKind::Boolean => 'TINYINT',
                    default => (string) $column->type,
                },
            $columns,
        );
        $this->mariaDb->exec("DROP TABLE IF EXISTS {$name}");
        $this->mariaDb->exec("CREATE TABLE {$name} (".implode(', ', $types).')');
        foreach (array_chunk($rows, 100) as $some) {
            $values = implode(
                ', ',
                array_map(
                    fn (array $row): string => '('.
                        implode(
                            ', ',
                            array_map(
                                fn (mixed $value, Column $column): string => match (true) {
                                    $value === null => 'NULL',
                                    $column->type->is(TypeKind::Text, TypeKind::Date, TypeKind::Timestamp) => "'".
                                        str_replace("'", "''", $column->type->show($value)).
                                        "'",
                                    default => $column->type->show($value),
                                },
                                $row,
                                $columns,
                            ),
                        ).
                        ')',
                    $some,
                ),
            );
            $this->mariaDb->exec("INSERT INTO {$name} VALUES {$values}");
            $this->engine->run("INSERT INTO {$name} VALUES {$values}", $this->session, $this->limits);
        }
        $this->engine->run("ANALYZE {$name}", $this->session, $this->limits);
    }
}
