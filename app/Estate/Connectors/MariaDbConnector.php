<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;
use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use Closure;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Sql\Aliases;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Lexer;
use Fulcrion\Core\Sql\TokenKind;
use PDO;
use PDOException;
use PDOStatement;

/**
 * A live MariaDB: its catalog, its plans, and reads. Whatever is run here runs in a read-only transaction with a limit of
 * time, with the rights of the account the cluster was added with.
 */
final class MariaDbConnector implements CatalogSource, PlanSource, QueryRunner
{
    private const SECONDS = 20;

    private const ROWS = 10_000;

    /** Locks change nothing about how rows are found, and are not for an account that only reads. */
    private const LOCKING = '~\s+(FOR\s+UPDATE|LOCK\s+IN\s+SHARE\s+MODE)(\s+(NOWAIT|SKIP\s+LOCKED|WAIT\s+\d+))?$~i';

    private ?ThrowingPdo $connection = null;

    /** @var array<string, ThrowingPdo> by schema: to change it would be a statement that looks like one of the applications */
    private array $asking = [];

    /**
     * @param  int  $seconds a statement may take
     */
    public function __construct(private readonly Cluster $cluster, private readonly int $seconds = self::SECONDS)
    {
    }

    public function changes(): bool
    {
        return false;
    }

    public function functions(): array
    {
        return [
            'coalesce',
            'concat',
            'date',
            'date_format',
            'datediff',
            'from_unixtime',
            'greatest',
            'ifnull',
            'least',
            'length',
            'lower',
            'now',
            'nullif',
            'round',
            'substring',
            'unix_timestamp',
            'upper',
        ];
    }

    /** A live server does not say when a table changed. */
    public function stamp(string $schema, string $table): null
    {
        return null;
    }

    public function objects(bool $withFacts = true): array
    {
        try {
            $pdo = $this->pdo();
            $columns = [];
            foreach (
                $pdo
                    ->query(
                        'SELECT TABLE_SCHEMA, TABLE_NAME, COLUMN_NAME, COLUMN_TYPE, IS_NULLABLE FROM information_schema.COLUMNS WHERE '
                            ."TABLE_SCHEMA NOT IN ('information_schema', 'performance_schema', 'mysql', 'sys') ORDER BY TABLE_SCHEMA, "
                            .'TABLE_NAME, ORDINAL_POSITION',
                    )
                    ->fetchAll(PDO::FETCH_NUM) as $row
            ) {
                $columns["{$row[0]}.{$row[1]}"][] = [(string) $row[2], (string) $row[3], $row[4] === 'YES'];
            }
            $objects = [];
            foreach (
                $pdo
                    ->query(
                        'SELECT TABLE_SCHEMA, TABLE_NAME, TABLE_TYPE, TABLE_ROWS, DATA_LENGTH + INDEX_LENGTH AS BYTES, ENGINE, '
                            ."INDEX_LENGTH FROM information_schema.TABLES WHERE TABLE_SCHEMA NOT IN ('information_schema', "
                            ."'performance_schema', 'mysql', 'sys') ORDER BY 1, 2",
                    )
                    ->fetchAll(PDO::FETCH_ASSOC) as $row
            ) {
                $view = $row['TABLE_TYPE'] === 'VIEW';
                $objects[] = new CatalogObject(
                    $row['TABLE_SCHEMA'],
                    $row['TABLE_NAME'],
                    $view,
                    $view ? null : (int) $row['TABLE_ROWS'],
                    $view ? null : (int) $row['BYTES'],
                    $columns["{$row['TABLE_SCHEMA']}.{$row['TABLE_NAME']}"] ?? [],
                    $view ? [] : ['rows' => 'as the engine estimates them', 'engine' => (string) $row['ENGINE']],
                );
            }

            // The server's own order depends on its collation.
            usort(
                $objects,
                static fn (CatalogObject $a, CatalogObject $b): int => [$a->schema, $a->name] <=> [$b->schema, $b->name],
            );

            return $objects;
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        }
    }

    public function run(
        string $sql,
        string $schema,
        string $user,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): QueryResult {
        $start = hrtime(true);
        $statement = $this->read($sql, $schema, $sql, $meter);
        $meta = $rows = [];
        for ($i = 0; $i < $statement->columnCount(); $i++) {
            $of = $statement->getColumnMeta($i);
            $meta[] = $of === false ? [] : $of;
        }
        $cut = false;
        while (($row = $statement->fetch(PDO::FETCH_NUM)) !== false) {
            if (count($rows) >= self::ROWS) {
                $cut = true;
                break;
            }
            $rows[] = $row;
        }
        $statement->closeCursor();
        [$columns, $rows] = MariaDbValues::read($meta, $rows);

        return new QueryResult($columns, $rows, $cut, 0, '', null, intdiv((int) hrtime(true) - (int) $start, 1000));
    }

    public function plan(
        string $sql,
        string $schema,
        string $user,
        bool $run,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): Plan {
        $statement = $this->read($sql, $schema, ($run ? 'ANALYZE' : 'EXPLAIN').' FORMAT=JSON '.rtrim($sql, "; \n\r\t"), $meter);
        $json = (string) $statement->fetchColumn();
        $statement->closeCursor();
        try {
            $plan = Plan::read($json);
        } catch (PlanError $error) {
            throw new SourceError($error->getMessage());
        }

        return $plan->named(Aliases::of($sql, Dialect::MariaDb), $sql);
    }

    /** A server of this kind estimates rows, not bytes. */
    public function estimate(string $sql, string $schema, string $user, bool $careful = false): null
    {
        return null;
    }

    public function explain(string $sql, string $schema): Plan
    {
        $this->refuseWrites($sql);
        $plain = (string) preg_replace(self::LOCKING, '', rtrim($sql, "; \n\r\t"));
        $command = "EXPLAIN FORMAT=JSON {$plain}";
        try {
            $pdo = $this->asking[$schema] ??= $this->asking($schema);
            $plan = Plan::read((string) $pdo->query($command)->fetchColumn());
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        } catch (PlanError $error) {
            throw new SourceError($error->getMessage());
        }

        return $plan->named(Aliases::of($sql, Dialect::MariaDb), $sql);
    }

    private function asking(string $schema): ThrowingPdo
    {
        $pdo = MariaDbSource::watching($this->cluster, $this->seconds, $schema);
        // What is constant is computed to say how, and must not write either.
        $pdo->exec('SET SESSION TRANSACTION READ ONLY');

        return $pdo;
    }

    private function read(string $sql, string $schema, string $command, ?RunMeter $meter): PDOStatement
    {
        $this->refuseWrites($sql);
        $limitUs = $meter?->mostUs;
        try {
            $pdo = $this->pdo();
            if ($schema !== '') {
                $pdo->exec('USE '.MariaDbTables::quoted($schema));
            }
            if ($limitUs !== null) {
                $pdo->exec('SET SESSION max_statement_time = '.sprintf('%.6F', min($this->seconds, $limitUs / 1e6)));
            }
            $pdo->exec('START TRANSACTION READ ONLY');

            return $pdo->query($command);
        } catch (PDOException $exception) {
            $message = MariaDbSource::clean($exception);
            if ($limitUs !== null && $limitUs < $this->seconds * 1_000_000 && str_contains($message, 'max_statement_time')) {
                $meter->took($limitUs + 1);
                throw new SourceError('Stopped: it takes longer than a single statement may.', null, true);
            }
            throw str_contains($message, 'max_statement_time')
                ? new SourceError("Stopped after {$this->seconds} s, the limit of one statement here.", null, true)
                : new SourceError($message, null, false, null, MariaDbSource::full($exception));
        }
    }

    /** The read-only transaction would refuse most of them too, but not all that can do harm. */
    private function refuseWrites(string $sql): void
    {
        $words = [];
        foreach ((new Lexer(Dialect::MariaDb))->tokens($sql) as $token) {
            if ($token->kind === TokenKind::Hint) {
                throw new SourceError('Comments the server would read as SQL are not run here.', $token->offset);
            }
            if ($token->kind !== TokenKind::Space && $token->kind !== TokenKind::Comment) {
                $words[] = strtoupper($token->text);
            }
        }
        while (end($words) === ';') {
            array_pop($words);
        }
        $first = ltrim($words[0] ?? '', '(');
        if ($first === '' && ($words[0] ?? '') === '(') {
            $first = $words[1] ?? '';
        }
        if (
            ! in_array($first, ['SELECT', 'WITH'], true) ||
            in_array(';', $words, true) ||
            in_array('INTO', $words, true) ||
            in_array('LOAD_FILE', $words, true)
        ) {
            throw new SourceError('Only single reads are run on a live server: SELECT or WITH, without INTO.');
        }
    }

    private function pdo(): ThrowingPdo
    {
        return $this->connection ??= MariaDbSource::connect($this->cluster, $this->seconds);
    }
}
