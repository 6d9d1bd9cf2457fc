<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Outcome;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Random queries under random policies on a practice cluster. What the policy makes of a query must give what the query
 * itself gives on tables that physically hold only what the person may see; errors are answers too.
 */
final class AttackOracle
{
    private const SCHEMA = 's';

    private const QUERIES = 8;

    private const TYPES = ['k' => 'bigint', 'n' => 'bigint', 'd' => 'date'];

    public int $worlds = 0;

    public int $statements = 0;

    public int $refused = 0;

    public int $compared = 0;

    /** @var list<string> what was shown and must not be */
    public array $leaks = [];

    /** @var list<string> what was kept back though nothing stands in the way */
    public array $withheld = [];

    private readonly Engine $whole;

    public function __construct(private readonly string $directory)
    {
        $this->whole = $this->cluster('whole');
        foreach (AccessWorld::ROWS as $table => $rows) {
            $this->fill($this->whole, $table, AccessWorld::COLUMNS[$table], $rows);
        }
        foreach (AccessWorld::views(self::SCHEMA) as $view) {
            $this->run($this->whole, $view);
        }
    }

    public function run(Engine $engine, string $sql): Outcome
    {
        return $engine->run(
            $sql,
            new Session(self::SCHEMA, 'attack', 1, true),
            new Limits(20, 5000, null, static fn (): int => (int) hrtime(true)),
        );
    }

    public function attack(int $worlds, int $seed): void
    {
        for ($i = 0; $i < $worlds; $i++) {
            $world = new AccessWorld($seed + $i, self::SCHEMA, $this->whole->warehouse->hashKey());
            $this->worlds++;
            $person = AccessWorld::PEOPLE[$i % 3];
            $seen = [];
            foreach (array_keys(AccessWorld::COLUMNS) as $table) {
                $seen[$table] = $world->table("person:{$person}", ["person:{$person}"], $table);
            }
            $physical = $this->physical($seen);
            $queries = new AttackQueries($seed + $i, self::SCHEMA);
            $decider = new StatementDecider($world->policy, $world->policy->reader("person:{$person}"), 'store', self::SCHEMA);
            for ($j = 0; $j < self::QUERIES; $j++) {
                $sql = $queries->one();
                $this->statements++;
                $this->judge(
                    'world '.($seed + $i).", {$person}: {$sql}",
                    $sql,
                    $decider->decide($sql),
                    $seen,
                    $physical,
                    $queries->probes,
                );
            }
            $physical->warehouse->destroy();
        }
    }

    /**
     * @param  array<string, VirtualTable>  $seen
     * @param  list<string>  $probes that fail where any value to be seen makes the query fail
     */
    private function judge(string $where, string $sql, StatementDecision $decision, array $seen, Engine $physical, array $probes): void
    {
        $due = $this->answer($physical, $sql);
        if (! $decision->isAllowed()) {
            $this->refused++;
            if (is_array($due) && ! $this->isExcused($sql, $seen)) {
                $this->withheld[] = "{$where} was refused: {$decision->sentence()}";
            }

            return;
        }
        if ($this->addsUp($sql, $seen)) {
            return;
        }
        $this->compared++;
        $given = $this->answer($this->whole, (string) $decision->rewritten);
        if ($given === $due || (is_string($given) && is_string($due))) {
            return;
        }
        // Which condition is looked at first is nobody's promise, so a value that may be seen may make one of both fail.
        if (is_string($due) && preg_match('~^(?:There is no |\d+ names for)~', $due) !== 1) {
            return;
        }
        if (is_string($given) && array_filter($probes, fn (string $probe): bool => is_string($this->answer($physical, $probe))) !== []) {
            return;
        }
        $show = static fn (array|string $answer): string => is_string($answer)
            ? "\"{$answer}\""
            : (string) json_encode(array_slice($answer, 0, 8));
        $this->leaks[] = "{$where} gave {$show($given)} instead of {$show($due)} by {$decision->rewritten}";
    }

    /**
     * @return array<string, int>|string rows with how often each came; what went wrong
     */
    private function answer(Engine $engine, string $sql): array|string
    {
        try {
            $rows = array_map(
                static fn (array $row): string => (string) json_encode($row, JSON_PARTIAL_OUTPUT_ON_ERROR),
                $this->run($engine, $sql)->rows,
            );
        } catch (WarehouseError|SyntaxError $error) {
            return $error->getMessage();
        }
        $counts = array_count_values($rows);
        ksort($counts, SORT_STRING);

        return $counts;
    }

    /**
     * Refusals the documentation states: * with a denied column, joins by all columns with a hidden one, value scopes
     * that refuse what asks for more.
     *
     * @param  array<string, VirtualTable>  $seen
     */
    private function isExcused(string $sql, array $seen): bool
    {
        preg_match_all('~\bq\d+\b~', $sql, $named);
        if (in_array(1, array_count_values($named[0]), true)) {
            // A named query nobody reads is decided on all the same.
            return true;
        }
        foreach ($seen as $name => $table) {
            if (preg_match("~\\b(?:s\\.)?{$name} AS~", $sql) !== 1) {
                continue;
            }
            $gone = count($table->columns) < count(AccessWorld::COLUMNS[$name]);
            foreach ([...$table->scoped, ...$name === 'a' ? [] : $seen['a']->scoped] as [$detail, , $mode]) {
                if ($mode === 'refuse' && $detail !== null) {
                    return true;
                }
            }
            if (
                $gone &&
                (str_contains($sql, '*') ||
                    str_contains($sql, 'NATURAL') ||
                    $table->closed ||
                    preg_match("~\\b{$name} AS \\w+ \\(~", $sql) === 1)
            ) {
                return true;
            }
        }

        return false;
    }

    /**
     * Whether totals may show more than what is there physically, which another oracle looks at.
     *
     * @param  array<string, VirtualTable>  $seen
     */
    private function addsUp(string $sql, array $seen): bool
    {
        return ($seen['a']->scoped['r'][3] ?? false) && preg_match('~count\(|sum\(|GROUP BY~', $sql) === 1;
    }

    /**
     * @param  array<string, VirtualTable>  $seen
     */
    private function physical(array $seen): Engine
    {
        $engine = $this->cluster('seen');
        foreach ($seen as $table => $one) {
            if ($one->columns !== []) {
                $this->fill($engine, $table, $one->columns, $one->rows);
            }
        }

        return $engine;
    }

    private function cluster(string $name): Engine
    {
        $engine = new Engine(Warehouse::create("{$this->directory}/{$name}", ucfirst($name), 2, new HardwareProfile()));
        $engine->warehouse->createSchema(self::SCHEMA);

        return $engine;
    }

    /**
     * @param  list<string>  $columns
     * @param  list<array<string, int|string|null>>  $rows
     */
    private function fill(Engine $engine, string $table, array $columns, array $rows): void
    {
        $this->run(
            $engine,
            "CREATE TABLE {$table} (".
                implode(', ', array_map(static fn (string $column): string => "{$column} ".(self::TYPES[$column] ?? 'text'), $columns)).
                ')',
        );
        $literal = static fn (string $column, int|string|null $value): string => match (true) {
            $value === null => 'NULL',
            // Literals of more than 18 digits are read as floating point.
            is_int($value) && abs($value) >= 10 ** 18 => '('.intdiv($value, 10 ** 9).' * 1000000000 + '.$value % 10 ** 9 .')',
            is_int($value) => (string) $value,
            $column === 'd' => "DATE '{$value}'",
            default => "'".str_replace("'", "''", $value)."'",
        };
        $lines = array_map(
            static fn (array $row): string => '('.
                implode(', ', array_map(static fn (string $column): string => $literal($column, $row[$column]), $columns)).
                ')',
            $rows,
        );
        if ($lines !== []) {
            $this->run($engine, "INSERT INTO {$table} VALUES ".implode(', ', $lines));
        }
    }
}
