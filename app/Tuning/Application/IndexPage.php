<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\MariaDbTables;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Changes\Refused;
use App\Platform\Support\Clock;
use App\Telemetry\Workload\WorkloadReader;
use Fulcrion\Core\Sql\Ast\CommonTable;
use Fulcrion\Core\Sql\Ast\TableName;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;
use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexAdvisor;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\Indexes\ProposedIndex;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Indexes of a live server: which are missing, which are there for nothing.
 */
final readonly class IndexPage
{
    private const SYSTEM = ['information_schema', 'performance_schema', 'mysql', 'sys'];

    /** Tables whose names are looked for in the texts of statements. */
    private const NAMED = 40;

    /**
     * @param  array<string, IndexedTable>  $tables
     * @param  list<ProposedIndex>  $missing
     * @param  list<array{table: IndexedTable, index: Index, why: string}>  $needless
     * @param  array<string, StatementUse>  $statements by fingerprint
     * @param  array<string, array{executions: float, fullScans: float, examined: float, noIndex: float, aside: float}>  $counted a week,
     *     by fingerprint
     * @param  array<string, int>  $unread tables that statements ask for and this account cannot look at => statements, the most first
     * @param  int|null  $countedSeconds since when the server counts what it reads by an index; null where it does not
     */
    private function __construct(
        public Cluster $cluster,
        public array $tables,
        public array $missing,
        public array $needless,
        public array $statements,
        public array $counted,
        public array $unread = [],
        public string $account = '',
        public ?int $countedSeconds = null,
    ) {
    }

    /**
     * @throws SourceError
     */
    public static function of(Cluster $cluster, Clusters $clusters, WorkloadReader $workload): self
    {
        $source =
            $clusters->as(Actor::system(SystemActor::Audit, 'indexes and the statements that use them'))->indexes($cluster) ??
            throw new SourceError("Indexes of {$cluster->name} cannot be looked at from here.");
        $tables = $source->tables();
        $statements = [];
        // Of our own server few tables can be changed from here, and most statements are about others.
        $named = $cluster->is_own && $tables !== [] && count($tables) <= self::NAMED ? array_map(strval(...), array_keys($tables)) : null;
        foreach ($workload->of($cluster, [], $named)->statements as $statement) {
            $statements[$statement->id] = $statement;
        }
        $counted = self::counted($cluster);
        $examined = array_map(static fn (array $one): float => $one['examined'], $counted);
        $advisor = new IndexAdvisor($tables, $cluster->dialect);
        // Only statements that read whole tables, sort or keep aside; the others have what they need.
        $poor = array_values(
            array_filter(
                $statements,
                static fn (StatementUse $s): bool => array_sum(
                    array_intersect_key($counted[$s->id] ?? [], ['fullScans' => 1, 'noIndex' => 1, 'aside' => 1]),
                ) > 0,
            ),
        );

        $asked = $advisor->asked($poor);
        $shares = $spans = [];
        foreach ($asked->columns as $table => $columns) {
            $tables[$table] = $tables[$table]->with($source->distinct((string) $table, $columns));
            $shares[$table] = $source->shares((string) $table, $asked->values[$table] ?? []);
        }
        foreach ($asked->spans as $key => [$table, $alias, $conditions]) {
            $spans[$key] = $source->keeping($table, $alias, $conditions);
        }
        $advisor = new IndexAdvisor($tables, $cluster->dialect);
        $countedSeconds = $source->countedSeconds();

        return new self(
            $cluster,
            $tables,
            $advisor->missing($poor, $examined, $shares, $spans),
            $advisor->needless($countedSeconds),
            $statements,
            $counted,
            $unread = self::unread($poor, $tables, $cluster),
            $unread === [] ? '' : $source->account(),
            $countedSeconds,
        );
    }

    public function sentence(): string
    {
        $saved = array_sum(array_map(static fn (ProposedIndex $p): float => $p->savedUs(), $this->missing));
        $missing = count($this->missing);
        $needless = count($this->needless);

        return match (true) {
            $missing === 0 && $needless === 0 && $this->tables === [] => "No table of {$this->cluster->name} can be looked at",
            $missing === 0 && $needless === 0 => "No index of {$this->cluster->name} is missing".
                ($this->unread === [] ? ', and none is there for nothing' : ' as far as its tables can be looked at'),
            $missing === 0 => ($needless === 1 ? 'One index' : "{$needless} indexes").
                " of {$this->cluster->name} ".
                ($needless === 1 ? 'is' : 'are').
                ' there for nothing; none is missing',
            default => ($missing === 1 ? 'One index' : "{$missing} indexes").
                " would save {$this->cluster->name} about ".
                Quantity::duration($saved).
                ' a week (modelled)'.
                ($needless > 0
                    ? '; '.($needless === 1 ? 'one of its indexes is' : "{$needless} of its indexes are").' there for nothing'
                    : ''),
        };
    }

    /**
     * @throws Refused
     */
    public function proposal(string $table, string $name): Proposal
    {
        foreach ($this->missing as $p) {
            if ($p->table === $table && $p->name() === $name) {
                return new Proposal(
                    $table,
                    "Make the index {$name} on {$table}",
                    IndexExecutor::KIND,
                    [$p->create()],
                    Inverse::statements([$p->drop()]),
                    $p->savedUs(),
                    0.0,
                    0.0,
                    $this->tables[$table]->indexBytes($p),
                    ['Every row that is written writes one more entry.'],
                    TableStatements::chosen($this->statements, $table, array_map(strval(...), array_keys($p->served))),
                );
            }
        }
        foreach ($this->needless as ['table' => $of, 'index' => $index]) {
            if ($of->name === $table && $index->name === $name) {
                $path = MariaDbTables::path($table);
                $columns = implode(', ', array_map(static fn (string $c): string => "`{$c}`", $index->columns));

                return new Proposal(
                    $table,
                    "Drop the index {$name} of {$table}",
                    IndexExecutor::KIND,
                    ["DROP INDEX `{$name}` ON {$path}"],
                    Inverse::statements(["CREATE INDEX `{$name}` ON {$path} ({$columns})"]),
                    0.0,
                    $of->indexBytes($index),
                    0.0,
                    0.0,
                    [],
                    TableStatements::chosen($this->statements, $table, []),
                );
            }
        }
        throw new Refused('That index is not proposed any more: the table or its statements are not what they were.');
    }

    /**
     * @param  list<StatementUse>  $poor
     * @param  array<string, IndexedTable>  $tables
     * @return array<string, int>
     */
    private static function unread(array $poor, array $tables, Cluster $cluster): array
    {
        // Of our own server only some schemas are anybody's business here.
        if ($cluster->is_own) {
            return [];
        }
        $parser = new Parser($cluster->dialect);
        $unread = [];
        foreach ($poor as $statement) {
            try {
                $nodes = iterator_to_array(Tree::nodes($parser->statement($statement->sql)), false);
            } catch (SyntaxError) {
                continue;
            }
            $with = [];
            foreach ($nodes as $node) {
                $with += $node instanceof CommonTable ? [strtolower($node->name) => true] : [];
            }
            $names = [];
            foreach ($nodes as $node) {
                $path = $node instanceof TableName ? TableNames::resolve($node->parts, $statement->schema) : null;
                if ($path === null || in_array($path[0], self::SYSTEM, true) || isset($with[$path[1]])) {
                    continue;
                }
                $name = implode('.', $path);
                if (! isset($tables[$name])) {
                    $names[$name] = true;
                }
            }
            foreach (array_keys($names) as $name) {
                $unread[$name] = ($unread[$name] ?? 0) + 1;
            }
        }
        arsort($unread);

        return $unread;
    }

    /**
     * What this account would have to be allowed, a schema each.
     *
     * @return list<string>
     */
    public function grants(): array
    {
        $schemas = array_unique(array_map(static fn (string $name): string => explode('.', $name)[0], array_keys($this->unread)));

        return array_values(array_map(
            fn (string $schema): string => 'GRANT SELECT ON '.MariaDbTables::quoted($schema).".* TO {$this->account}",
            $schemas,
        ));
    }

    /**
     * @return array<string, array{executions: float, fullScans: float, examined: float, noIndex: float, aside: float}>
     */
    private static function counted(Cluster $cluster): array
    {
        $from = Clock::seconds() - WorkloadReader::DAYS * 86_400;
        $counted = [];
        foreach (
            DB::select(
                'SELECT s.fingerprint, SUM(l.executions) AS executions, SUM(l.full_scans) AS full_scans, SUM(l.rows_examined) AS '
                    .'examined, SUM(l.no_index) AS no_index, SUM(l.sort_passes + l.tmp_memory + l.tmp_disk) AS aside FROM load_day l '
                    .'JOIN statements s ON s.id = l.statement_id WHERE l.cluster_id = ? AND l.bucket_at >= ? GROUP BY s.fingerprint',
                [$cluster->id, $from - ($from % 86_400)],
            ) as $row
        ) {
            $counted[$row->fingerprint] = [
                'executions' => (float) $row->executions,
                'fullScans' => (float) $row->full_scans,
                'examined' => $row->executions > 0 ? $row->examined / $row->executions : 0.0,
                'noIndex' => (float) $row->no_index,
                'aside' => (float) $row->aside,
            ];
        }

        return $counted;
    }
}
