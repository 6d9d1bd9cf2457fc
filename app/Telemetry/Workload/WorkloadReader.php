<?php

declare(strict_types=1);

namespace App\Telemetry\Workload;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\SampleSeal;
use Fulcrion\Core\Sql\BoundText;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;

/**
 * What is asked of the tables of a cluster, from the last four weeks of executions and the text of each statement's
 * latest sample.
 */
final readonly class WorkloadReader
{
    public const DAYS = 28;

    public function __construct(private Encrypter $encrypter)
    {
    }

    /**
     * @param  array<string, TableLayout>  $layouts
     * @param  string|list<string>|null  $table only statements whose text names it, or one of them, or a view on it
     * @param  array<string, string>  $views schema.view => its text
     */
    public function of(Cluster $cluster, array $layouts, string|array|null $table = null, array $views = []): Workload
    {
        $types = [];
        foreach ($layouts as $name => $layout) {
            foreach ($layout->definition->columns as $column) {
                $types[$name][$column->name] = $column->type;
            }
        }
        $reader = new UseReader($types, $cluster->dialect, $views);
        $from = Clock::seconds() - self::DAYS * 86_400;
        $bindings = [$cluster->id, $from - ($from % 86_400)];
        $named = '';
        if ($table !== null) {
            $names = array_values(
                array_unique(array_merge(...array_map(static fn (string $one): array => self::naming($one, $views), (array) $table))),
            );
            $named = 'AND ('.implode(' OR ', array_fill(0, count($names), 's.text LIKE ?')).')';
            array_push($bindings, ...array_map(static fn (string $name): string => '%'.addcslashes($name, '%_\\').'%', $names));
        }
        $rows = DB::select(
            "SELECT s.id, s.fingerprint, s.text, SUM(l.executions) AS executions, SUM(l.duration_us) AS duration_us,
            SUM(l.bytes_scanned) AS bytes_scanned, MIN(l.bucket_at) AS first_at, MAX(l.bucket_at) AS last_at
            FROM load_day l JOIN statements s ON s.id = l.statement_id
            WHERE l.cluster_id = ? AND l.bucket_at >= ? {$named} GROUP BY s.id, s.fingerprint, s.text",
            $bindings,
        );
        $days = $rows === [] ? 1 : max(1, (max(array_column($rows, 'last_at')) - min(array_column($rows, 'first_at'))) / 86_400 + 1);
        // What is known of part of a history is told for a whole week.
        $weeks = $days / 7;
        $samples = $this->samples($cluster->id, $table === null ? null : array_map(intval(...), array_column($rows, 'id')));
        $unknown = array_values(array_diff(array_map(intval(...), array_column($rows, 'id')), array_keys($samples)));
        $databases = Databases::of($cluster->id, $unknown, $from - ($from % 86_400));
        $statements = [];
        $unread = [];
        foreach ($rows as $row) {
            $sample = $samples[(int) $row->id] ?? [];
            $sql = isset($sample['sql']) ? BoundText::fill((string) $sample['sql'], (array) ($sample['binds'] ?? [])) : $row->text;
            $schema = (string) ($sample['database'] ?? $databases[(int) $row->id] ?? '');
            $uses = $reader->read($sql, $schema);
            if ($uses === null) {
                $unread[] = $sql;

                continue;
            }
            $statements[] = new StatementUse(
                $row->fingerprint,
                $row->executions / $weeks,
                $row->duration_us / $weeks,
                $row->bytes_scanned / $weeks,
                $uses,
                $sql,
                (string) ($sample['user'] ?? ''),
                $schema,
            );
        }

        return new Workload($statements, count($unread), $unread);
    }

    /**
     * @param  array<string, string>  $views
     * @return list<string> name of a table and of the views that lead to it
     */
    private static function naming(string $table, array $views): array
    {
        $bare = static fn (string $path): string => substr($path, (int) strrpos(".{$path}", '.'));
        $names = [$bare($table)];
        for ($i = 0; $i < count($names); $i++) {
            foreach ($views as $view => $text) {
                if (stripos($text, $names[$i]) !== false && ! in_array($bare($view), $names, true)) {
                    $names[] = $bare($view);
                }
            }
        }

        return $names;
    }

    /**
     * @param  list<int>|null  $statements ids, null for all
     * @return array<int, array<string, mixed>> latest sample by statement
     */
    public function samples(int $clusterId, ?array $statements): array
    {
        if ($statements === []) {
            return [];
        }
        $only = $statements === null ? '' : 'AND statement_id IN ('.implode(', ', $statements).')';
        $samples = [];
        foreach (
            DB::select(
                'SELECT s.statement_id, s.sealed FROM samples s JOIN (SELECT statement_id, MAX(hour_at) AS hour_at FROM samples WHERE '
                    ."cluster_id = ? {$only} GROUP BY statement_id) latest USING (statement_id, hour_at) WHERE s.cluster_id = ?",
                [$clusterId, $clusterId],
            ) as $row
        ) {
            $opened = SampleSeal::open($this->encrypter, $row->sealed);
            usort($opened, static fn (array $a, array $b): int => ($b['started_at_us'] ?? 0) <=> ($a['started_at_us'] ?? 0));
            $samples[(int) $row->statement_id] = $opened[0] ?? [];
        }

        return $samples;
    }
}
