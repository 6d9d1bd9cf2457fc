<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use ErrorException;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Throwable;

/**
 * Random expressions on the practice cluster. Whatever is asked ends in rows or in a refusal of its own, never in an error
 * of PHP; and an expression of columns has the value it has with the values written in their places.
 */
final class ExpressionAttack
{
    private const NOW_US = 1_774_000_000_000_000;

    public int $answered = 0;

    public int $refused = 0;

    public int $compared = 0;

    /** @var list<string> errors that are none of ours */
    public array $uncaught = [];

    /** @var list<string> two ways to the same value that differ */
    public array $differing = [];

    private readonly Engine $engine;

    private readonly Session $session;

    private readonly Limits $limits;

    /**
     * @param  string  $directory for a warehouse, which the caller removes
     */
    public function __construct(string $directory)
    {
        $this->engine = new Engine(
            Warehouse::create(
                $directory.'/expressions',
                'Expressions',
                3,
                new HardwareProfile(2, 1000, 1_000_000, 1_000_000, 1_000_000, 10),
            ),
        );
        $this->session = new Session('s', 'attack', self::NOW_US);
        $this->limits = new Limits(30, 1000, null, static fn (): int => (int) hrtime(true));
        $table = RandomExpressions::TABLE;
        $columns = array_map(static fn (string $name): string => "{$name} {$table[$name][0]}", array_keys($table));
        $this->engine->run('CREATE SCHEMA s', $this->session, $this->limits);
        $this->engine->run('CREATE TABLE w (row bigint, '.implode(', ', $columns).') PLACED BY ("row")', $this->session, $this->limits);
        for ($row = 0; $row < 8; $row++) {
            $values = implode(', ', array_map(static fn (array $column): string => $column[1][$row], $table));
            $this->engine->run("INSERT INTO w VALUES ({$row}, {$values})", $this->session, $this->limits);
        }
    }

    public function attack(int $expressions, int $seed): void
    {
        $random = new Randomizer(new Mt19937($seed));
        $generator = new RandomExpressions($random);
        for ($i = 0; $i < $expressions; $i++) {
            $expression = $generator->next(1 + ($i % 4));
            $columns = (string) preg_replace('~\{(\w)\}~', '$1', $expression);
            $row = $random->getInt(0, 7);
            $this->compare($expression, $columns, $row);
            $statement = match ($i % 6) {
                0 => "SELECT {$columns}, 5 + 0, count(*), sum(i), avg(d) FROM w GROUP BY {$columns}, 5 + 0, DATE '2026-01-01', -2.5",
                1 => "SELECT row FROM w WHERE {$columns}",
                2 => "SELECT row FROM w ORDER BY {$columns} DESC, row LIMIT 3",
                3 => "SELECT sum(x), min(x), max(x), count(DISTINCT x) FROM (SELECT {$columns} AS x FROM w) AS q",
                4 => "SELECT rank() OVER (PARTITION BY b ORDER BY {$columns}), lag({$columns}, 2) OVER (ORDER BY row) FROM w",
                default => "SELECT a.row FROM w AS a JOIN w AS c ON (SELECT {$columns} FROM w WHERE row = {$row}) = a.d AND a.row = c.row",
            };
            $this->shown($statement);
        }
    }

    private function compare(string $expression, string $columns, int $row): void
    {
        $table = RandomExpressions::TABLE;
        $written = (string) preg_replace_callback(
            '~\{(\w)\}~',
            static fn (array $m): string => "CAST({$table[$m[1]][1][$row]} AS {$table[$m[1]][0]})",
            $expression,
        );
        $all = $this->shown("SELECT {$columns} FROM w ORDER BY row");
        $one = $this->shown("SELECT {$columns} FROM w WHERE row = {$row}");
        $constant = $this->shown("SELECT {$written}");
        if ($one !== null && $constant !== null) {
            $this->compared++;
            // Of NULL a constant has no type and takes that of its neighbours; rounded to digits that are written down, a decimal
            // has no more of them, and what it is divided by has fewer.
            if ($one[0] !== $constant[0] && ! str_contains($written, 'NULL') && ! str_contains($written, 'round(')) {
                $this->differing[] = "row {$row}, {$columns}: {$one[0]} by columns, {$constant[0]} written out";
            }
        }
        if ($all !== null && $one !== null && $all[$row] !== $one[0]) {
            $this->differing[] = "row {$row}, {$columns}: {$all[$row]} among all rows, {$one[0]} alone";
        }
    }

    /**
     * @return list<string>|null the first column as people see it; null where it was refused
     */
    private function shown(string $sql): ?array
    {
        set_error_handler(static function (int $level, string $message, string $file, int $line): bool {
            if ((error_reporting() & $level) === 0) {
                return false;
            }
            throw new ErrorException($message, 0, $level, $file, $line);
        });
        try {
            $outcome = $this->engine->run($sql, $this->session, $this->limits);
            $type = $outcome->columns[0]->type;
            $show = static function (array $row) use ($type): string {
                $text = $type->show($row[0]);

                return str_contains($text, '.') && $type->is(TypeKind::Decimal, TypeKind::Text) ? rtrim(rtrim($text, '0'), '.') : $text;
            };
            $this->answered++;

            return array_map($show, $outcome->rows);
        } catch (WarehouseError) {
            $this->refused++;

            return null;
        } catch (Throwable $error) {
            $this->uncaught[] = $error::class.": {$error->getMessage()} — {$sql}";

            return null;
        } finally {
            restore_error_handler();
        }
    }
}
