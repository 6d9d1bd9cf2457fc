<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\ActorClusters;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\ReadAt;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\TableKeeper;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Runs\Progress;
use Closure;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;

/**
 * Runs the statements a change of a table is measured by, and keeps what came of it.
 *
 * @phpstan-type Statement array{id: string, text: string, sql: string, schema: string, executions: float}
 */
final readonly class TableMeasurement
{
    public function __construct(private Clusters $clusters, private ChosenStatements $chosen)
    {
    }

    public function reach(): ActorClusters
    {
        return $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change'));
    }

    /** @throws SourceError where nothing can be changed */
    public function keeper(Cluster $cluster): TableKeeper
    {
        return $this->reach()->keeper($cluster) ??
            throw new SourceError("Changes cannot be run on {$cluster->name}: it is only watched. Run the statements there yourself.");
    }

    public function layout(Cluster $cluster, string $table): ?TableLayout
    {
        return $this->reach()->layouts($cluster)?->layout($table);
    }

    /**
     * @return list<Statement>
     *
     * @throws SourceError
     */
    public function statements(Change $change): array
    {
        $statements = $this->chosen->of($change);
        if ($statements === [] && $this->writing($change) === []) {
            throw new SourceError('No statement is chosen to measure by. Choose at least one.');
        }

        return $statements;
    }

    /**
     * @return list<Statement>
     */
    public function writing(Change $change): array
    {
        return $this->chosen->writing($change);
    }

    /**
     * Runs the statements that write on two copies of the table.
     *
     * @param  list<Statement>  $writing
     * @param  string  $before schema.table
     * @param  Closure(): bool  $stop
     * @return list<ProofLine>
     *
     * @throws SourceError when it is stopped
     */
    public function written(TableKeeper $keeper, Change $change, array $writing, string $before, string $after, Closure $stop): array
    {
        $lines = [];
        foreach ($writing as $one) {
            $sqls = array_map(
                static fn (string $copy): string => Reading::into($one['sql'], $copy, $change->cluster->dialect),
                [$before, $after],
            );
            try {
                [$first, $then] = $keeper->write($sqls, $one['schema'], $stop);
            } catch (SourceError $error) {
                // A statement that fails is shown in the proof; being stopped ends the whole.
                if ($stop()) {
                    throw $error;
                }
                $first = $then = Measured::failed($error->getMessage());
            }
            $lines[] = new ProofLine($one['id'], $one['text'], $one['executions'], $first, $then);
        }

        return $lines;
    }

    /**
     * Keeps the table as it is for statements that write, which must not touch the table itself.
     *
     * @param  Closure(): bool  $stop
     *
     * @throws SourceError
     */
    public function copy(TableKeeper $keeper, Change $change, string $as, Closure $stop): void
    {
        $keeper->makeSchema(self::schema($change));
        $keeper->borrow($keeper, $change->object, $as, $change->copy_share, $stop);
    }

    /**
     * @param  list<Statement>  $statements
     * @param  Closure(): bool  $stop
     * @return list<Measured>
     *
     * @throws SourceError
     */
    public function all(
        TableKeeper $keeper,
        array $statements,
        Progress $progress,
        Closure $stop,
        string $when,
        float $from,
        float $to,
        ReadAt $at,
    ): array {
        $all = [];
        foreach ($statements as $i => $statement) {
            $progress->tell(
                'statement '.($i + 1).' of '.count($statements).", {$when} the change, cold and warm",
                $from + (($to - $from) * $i) / count($statements),
            );
            $all[] = $this->one($keeper, $statement['sql'], $statement['schema'], $stop, $at);
        }

        return $all;
    }

    /**
     * @param  Closure(): bool  $stop
     *
     * @throws SourceError when it is stopped
     */
    public function one(TableKeeper $keeper, string $sql, string $schema, Closure $stop, ReadAt $at): Measured
    {
        try {
            return $keeper->measure($sql, $schema, $stop, $at);
        } catch (SourceError $error) {
            // A statement that fails is shown in the proof; being stopped ends the whole.
            if ($stop()) {
                throw $error;
            }

            return Measured::failed($error->getMessage());
        }
    }

    public function bytes(Cluster $cluster, string $table): int
    {
        $layout = $this->layout($cluster, $table);

        return ($layout?->storedBytes() ?? 0) * ($layout->rowFactor ?? 1);
    }

    /**
     * @return array<string, string> a condition of the proof, where a change of size is worth telling
     */
    public static function stored(int $before, int $after): array
    {
        if ($before === $after || $before === 0) {
            return [];
        }
        $share = $after < $before ? Quantity::percent(1 - $after / $before).' less' : Quantity::percent($after / $before - 1).' more';

        return ['stored' => Quantity::bytes($before).' before, '.Quantity::bytes($after)." after ({$share})"];
    }

    /**
     * @param  Cluster  $place where the statements were run
     * @param  array<string, string>  $conditions
     */
    public function keep(Change $change, string $kind, Proof $proof, string $by, Cluster $place, array $conditions): void
    {
        $schema = self::schema($change);
        $copies = [
            "{$schema}.as_it_is",
            "{$schema}.as_it_would_be",
            HelperName::table($change->object, 'new', $change->id),
            (string) $change->kept_table,
        ];
        $differences = [];
        foreach ($proof->lines as $i => $line) {
            $difference = $line->difference()?->toArray();
            if ($difference !== null) {
                // A copy is as closed as the table it was made of.
                $home = static fn (string $table): string => in_array($table, $copies, true) ? $change->object : $table;
                $difference['tables'] = array_values(array_unique(array_map($home, $difference['tables'])));
                $differences[$i] = $difference + ['place' => $place->id];
            }
        }
        ProofRecord::keep($change, $kind, $proof, $by, $conditions, $differences);
    }

    /** Where copies for a rehearsal are made. */
    public static function schema(Change $change): string
    {
        return HelperName::schema('rehearsal', $change->id);
    }
}
