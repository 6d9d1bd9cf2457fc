<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Workload\Databases;
use Fulcrion\Core\Sql\Names\NamedTables;
use Illuminate\Support\Facades\DB;
use Throwable;

/**
 * Keeps which tables each statement of a cluster names, and which part of what it reads is of which: by the bytes of its latest plan
 * where one was measured, else all alike.
 */
final readonly class StatementTables
{
    private const AT_ONCE = 1_000;

    public function __construct(private PlanStore $plans)
    {
    }

    /** Learns of statements that are new. */
    public function learn(Cluster $cluster): void
    {
        do {
            $new = DB::select(
                'SELECT s.id, s.fingerprint, s.text FROM statement_presence p JOIN statements s ON s.id = p.statement_id WHERE '
                    .'p.cluster_id = ? AND NOT EXISTS (SELECT 1 FROM statement_tables t WHERE t.cluster_id = p.cluster_id AND '
                    .'t.statement_id = p.statement_id) ORDER BY s.id LIMIT '.self::AT_ONCE,
                [$cluster->id],
            );
            $databases = Databases::of($cluster->id, array_values(array_map(static fn ($row): int => (int) $row->id, $new)), 0);
            $sealed = $this->sealed($cluster, array_values(array_map(static fn ($row): string => (string) $row->fingerprint, $new)));
            $rows = [];
            foreach ($new as $row) {
                $named = NamedTables::of((string) $row->text, $cluster->dialect, $databases[(int) $row->id] ?? '');
                array_push($rows, ...$this->rows($cluster, (int) $row->id, $sealed[$row->fingerprint] ?? null, $named));
            }
            foreach (array_chunk($rows, self::AT_ONCE) as $some) {
                DB::table('statement_tables')->insertOrIgnore($some);
            }
        } while (count($new) === self::AT_ONCE);
    }

    /** Forgets what is kept of a statement, since a plan tells more of it by now. */
    public static function forget(int $clusterId, string $fingerprint): void
    {
        DB::table('statement_tables')
            ->where('cluster_id', $clusterId)
            ->whereIn('statement_id', DB::table('statements')->where('fingerprint', $fingerprint)->select('id'))
            ->where('by_plan', false)
            ->delete();
    }

    /**
     * @return list<array<string, int|string|bool>>
     */
    private function rows(Cluster $cluster, int $statement, ?string $sealed, NamedTables $named): array
    {
        $paths = array_values(array_filter($named->all(), static fn (string $path): bool => strlen($path) <= 190));
        $bytes = count($paths) < 2 || $sealed === null ? [] : $this->bytes($sealed, $paths);
        $rows = [];
        foreach ($paths === [] ? [''] : $paths as $path) {
            $rows[] = [
                'cluster_id' => $cluster->id,
                'statement_id' => $statement,
                'path' => $path,
                'is_read' => in_array($path, $named->reads, true),
                'is_written' => in_array($path, $named->writes, true),
                'weight' => $bytes === [] ? 1 : $bytes[$path] ?? 0,
                'by_plan' => $bytes !== [],
            ];
        }

        return $rows;
    }

    /**
     * @param  list<string>  $fingerprints
     * @return array<string, string> latest measured plan by fingerprint, as it is kept
     */
    private function sealed(Cluster $cluster, array $fingerprints): array
    {
        return DB::table('plans')
            ->where('cluster_id', $cluster->id)
            ->whereIn('statement', $fingerprints)
            ->where('actual', true)
            ->orderBy('last_us')
            ->pluck('sealed', 'statement')
            ->map(static fn (mixed $sealed): string => (string) $sealed)
            ->all();
    }

    /**
     * What a plan read of each.
     *
     * @param  list<string>  $paths
     * @return array<string, int> by path; empty where no plan tells
     */
    private function bytes(string $sealed, array $paths): array
    {
        try {
            $plan = $this->plans->open($sealed);
        } catch (Throwable) {
            // A plan that cannot be opened any more tells nothing.
            return [];
        }
        $bytes = [];
        foreach ($plan->steps() as $step) {
            $table = strtolower($step->table->name ?? '');
            if (in_array($table, $paths, true)) {
                $bytes[$table] = ($bytes[$table] ?? 0) + ($step->reads->bytes ?? 0);
            }
        }

        return array_sum($bytes) > 0 ? $bytes : [];
    }
}
