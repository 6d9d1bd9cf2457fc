<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Closure;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Warehouse;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Runs the reading part of each statement once on a practice cluster and notes what was counted. Statements that
 * differ only in the names of their result columns are run once.
 */
final class DemoMeasurement
{
    private const SECONDS = 30;

    private readonly Engine $engine;

    /** @var array<string, array{PlanTotals, int, Plan}> by shape */
    private array $known = [];

    public function __construct(private readonly Warehouse $warehouse, private readonly int $nowUs)
    {
        $this->engine = new Engine($warehouse, new ChunkCache(12_000_000));
    }

    /**
     * @param  (Closure(int, int): void)|null  $progress told how many of how many are done
     * @return array<string, array{PlanTotals, int, Plan}> template => totals, rows returned, plan; without statements that read nothing
     */
    public function all(?Closure $progress = null): array
    {
        $measured = [];
        $statements = Repertoire::all();
        foreach ($statements as $i => $statement) {
            if ($progress !== null && $i % 10 === 0) {
                $progress($i, count($statements));
            }
            $one = $this->one($statement);
            if ($one !== null) {
                $measured[$statement->template] = $one;
            }
        }

        return $measured;
    }

    /**
     * @return array{PlanTotals, int, Plan}|null
     */
    public function one(DemoStatement $statement): ?array
    {
        if ($statement->trouble === Repertoire::CROSS_JOIN) {
            return $this->crossJoin($statement);
        }
        $sql = Reading::of($statement->fill(intdiv($this->nowUs, 1_000_000), new Randomizer(new Mt19937(7))));
        if ($sql === null) {
            return null;
        }

        return $this->known[self::shape($sql)] ??= $this->run($sql, $statement->database);
    }

    /**
     * @return array{PlanTotals, int, Plan}
     */
    private function run(string $sql, string $schema): array
    {
        $outcome = $this->engine->run(
            $sql,
            new Session($schema, 'measurement', $this->nowUs),
            new Limits(self::SECONDS, PHP_INT_MAX, null, static fn (): int => (int) hrtime(true)),
        );
        assert($outcome->plan !== null);

        return [PlanTotals::of($outcome->plan), count($outcome->rows), $outcome->plan];
    }

    /**
     * The accident cannot be run even here: its two inputs are, and what a join of every row with every row gives is
     * their product.
     *
     * @return array{PlanTotals, int, Plan}
     */
    private function crossJoin(DemoStatement $statement): array
    {
        $from = gmdate('Y-m-d', intdiv($this->nowUs, 1_000_000) - 86_400 * 13);
        [, $readings, $plan] = $this->run(
            "SELECT bay_id, value FROM field.climate_reading WHERE read_at >= '{$from}'",
            $statement->database,
        );
        [$picks, $count] = $this->run("SELECT bay_id, kilos FROM field.harvest_pick WHERE picked_at >= '{$from}'", $statement->database);
        $profile = $this->warehouse->profile;
        // Every node joins its part of the readings with all picks; rows grow by the factor on both sides, of which
        // the model lets only one count.
        $seconds =
            (($readings / $this->warehouse->nodes) * $count * 2.0 * $profile->rowFactor) /
            ($profile->cores * $profile->rowsPerSecondPerCore);
        $totals = PlanTotals::of($plan);

        return [$totals->grownBy((int) min(8.0e9, $seconds * 1e6), $picks), 1000, $plan];
    }

    private static function shape(string $sql): string
    {
        preg_match_all('~ AS (\w+)~', $sql, $matches);
        foreach (array_values(array_unique($matches[1])) as $i => $alias) {
            if (! in_array(strtolower($alias), ['date', 'double', 'bigint', 'decimal'], true)) {
                $sql = (string) preg_replace("~\b{$alias}\b~", "x{$i}", $sql);
            }
        }

        return $sql;
    }
}
