<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\QueryResult;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Access\Change\Shift;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Sql\Printer;

/**
 * What stewards try on clusters before a policy takes effect. Only what a policy, published or drafted, made of a
 * statement is run.
 */
final readonly class Trials
{
    private const MOST_SHARES = 40;

    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * What somebody would get.
     *
     * @throws SourceError
     */
    public function run(StatementDecision $decision, Cluster $cluster, string $schema): ?QueryResult
    {
        $runner = $this->clusters->as(Actor::system(SystemActor::Policy, 'a statement tried as somebody'))->runner($cluster);

        return $decision->rewritten === null ? null : $runner?->run($decision->rewritten, $schema)->result;
    }

    /**
     * What a mask leaves of a few values, beside the values.
     *
     * @param  list<string>  $path cluster, schema, table, column
     *
     * @throws SourceError
     */
    public function masked(Cluster $cluster, array $path, string $masked): ?QueryResult
    {
        $printer = new Printer();
        $sql = "SELECT {$printer->name($path[3])} AS given, {$masked} AS shown FROM {$printer->path([$path[1], $path[2]])} LIMIT 8";

        return $this->clusters
            ->as(Actor::system(SystemActor::Policy, 'a mask tried on values'))
            ->runner($cluster)
            ?->run($sql, $path[1])->result;
    }

    /**
     * What share of a table's rows is left, counted on the cluster.
     *
     * @param  list<Shift>  $shifts
     * @return array<string, float> table and condition => share
     */
    public function shares(array $shifts): array
    {
        $shares = [];
        foreach ($shifts as $shift) {
            foreach ($shift->kind === Shift::ROWS && count($shares) <= self::MOST_SHARES ? $shift->objects : [] as $path) {
                foreach ([$shift->before, $shift->after] as $rows) {
                    $share =
                        str_starts_with($rows, 'rows where ') && ! isset($shares["{$path} {$rows}"])
                            ? $this->share($path, substr($rows, 11))
                            : null;
                    $shares += $share === null ? [] : ["{$path} {$rows}" => $share];
                }
            }
        }

        return $shares;
    }

    private function share(string $path, string $condition): ?float
    {
        [$slug, $schema, $table] = ObjectPath::parts($path);
        $cluster = Cluster::query()->where('slug', $slug)->where('connector', 'practice')->first();
        if (! ($cluster instanceof Cluster)) {
            return null;
        }
        $name = (new Printer())->path([$schema, $table]);
        try {
            $runner = $this->clusters->as(Actor::system(SystemActor::Policy, 'rows a draft leaves'))->runner($cluster);
            [$all, $left] = $runner?->run("SELECT count(*), (SELECT count(*) FROM {$name} WHERE {$condition}) FROM {$name}", $schema)
                ->result->rows[0] ?? [0, 0];
        } catch (SourceError) {
            return null;
        }

        return $all > 0 ? (float) $left / (float) $all : 0.0;
    }
}
