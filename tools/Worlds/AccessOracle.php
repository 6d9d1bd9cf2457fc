<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Sql\Dialect;
use PDO;
use PDOException;

/**
 * Holds the decision engine against worlds worked out cell by cell. What it allows is run, rewritten, by MariaDB.
 */
final class AccessOracle
{
    private const QUESTIONS = 4;

    public int $worlds = 0;

    public int $questions = 0;

    public int $refused = 0;

    /** @var list<string> what was shown and must not be */
    public array $leaks = [];

    /** @var list<string> what was kept back and must not be */
    public array $withheld = [];

    public function __construct(private readonly PDO $pdo, private readonly string $schema)
    {
        foreach (
            ['a' => 'k bigint, v varchar(40), n bigint, r varchar(20), c varchar(40)', 'b' => 'k bigint, w varchar(40), d '
                .'date'] as $table => $columns
        ) {
            $this->pdo->exec("CREATE OR REPLACE TABLE {$table} ({$columns}) COLLATE utf8mb4_bin");
            foreach (AccessWorld::ROWS[$table] as $row) {
                $this->pdo
                    ->prepare("INSERT INTO {$table} VALUES (".implode(', ', array_fill(0, count($row), '?')).')')
                    ->execute(array_values($row));
            }
        }
        foreach (AccessWorld::views($schema) as $view) {
            $this->pdo->exec(str_replace('CREATE VIEW', 'CREATE OR REPLACE VIEW', $view));
        }
    }

    public function clear(): void
    {
        $this->pdo->exec('DROP VIEW IF EXISTS va, vj');
        $this->pdo->exec('DROP TABLE IF EXISTS a, b');
    }

    public function run(int $worlds, int $seed): void
    {
        $masking = new Masking(Dialect::MariaDb, AccessWorld::KEY);
        for ($i = 0; $i < $worlds; $i++) {
            $world = new AccessWorld($seed + $i, $this->schema);
            $this->worlds++;
            for ($j = 0; $j < self::QUESTIONS; $j++) {
                $person = AccessWorld::PEOPLE[$j % 3];
                [$sql, $expected] = (new AccessQuestions($world, $this->schema))->ask($person);
                $this->questions++;
                $decision = (new StatementDecider(
                    $world->policy,
                    $world->policy->reader("person:{$person}"),
                    'store',
                    $this->schema,
                    Dialect::MariaDb,
                    $masking,
                ))->decide($sql);
                $where = 'world '.($seed + $i).", {$person}: {$sql}";
                if (! $decision->isAllowed()) {
                    $this->refused++;
                    if ($expected !== null) {
                        $this->withheld[] = "{$where} was refused: {$decision->sentence()}";
                    }
                } elseif ($expected === null) {
                    $this->leaks[] = "{$where} was allowed as {$decision->rewritten}";
                } else {
                    $this->compare($where, $expected, (string) $decision->rewritten);
                }
            }
        }
    }

    /**
     * @param  list<list<int|string|null>>  $expected
     */
    private function compare(string $where, array $expected, string $rewritten): void
    {
        try {
            $statement = $this->pdo->query($rewritten);
            /** @var list<list<int|string|null>> $rows */
            $rows = $statement === false ? [] : $statement->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException $error) {
            $this->withheld[] = "{$where} failed as {$rewritten}: {$error->getMessage()}";

            return;
        }
        $count = static fn (array $rows): array => array_count_values(
            array_map(
                static fn (array $row): string => (string) json_encode(
                    array_map(static fn (mixed $value): ?string => $value === null ? null : (string) $value, $row),
                ),
                $rows,
            ),
        );
        [$given, $due] = [$count($rows), $count($expected)];
        foreach ($given as $row => $times) {
            if ($times > ($due[$row] ?? 0)) {
                $this->leaks[] = "{$where} gave {$row} by {$rewritten}";
            }
        }
        foreach ($due as $row => $times) {
            if ($times > ($given[$row] ?? 0)) {
                $this->withheld[] = "{$where} did not give {$row} by {$rewritten}";
            }
        }
    }
}
