<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Workload\WorkloadReader;
use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Change\AskedQuery;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Access\Review\Usage;
use Fulcrion\Core\Storage\UseReader;
use Illuminate\Support\Facades\DB;

/**
 * Who has really run what in the last four weeks, on practice clusters: those a policy stands before.
 */
final class AccessHistory
{
    public const DAYS = WorkloadReader::DAYS;

    /** @var list<Usage>|null */
    private ?array $usage = null;

    public function __construct(private readonly WorkloadReader $workload, private readonly AccessCatalogReader $world)
    {
    }

    /**
     * Statements with the values of their latest sample, by account.
     *
     * @return list<AskedQuery>
     */
    public function asked(): array
    {
        $asked = [];
        foreach ($this->clusters() as $cluster) {
            $rows = $this->rows($cluster);
            $samples = $this->workload->samples($cluster->id, null);
            foreach ($rows as $row) {
                $sample = $samples[(int) $row->id] ?? [];
                $asked[] = new AskedQuery(
                    $row->fingerprint,
                    (string) ($sample['sql'] ?? $row->text),
                    $cluster->slug,
                    (string) $row->database_name,
                    Subject::person($row->user_name),
                    (int) $row->executions,
                );
            }
        }

        return $asked;
    }

    /**
     * Tables that accounts have read.
     *
     * @return list<Usage>
     */
    public function usage(): array
    {
        if ($this->usage !== null) {
            return $this->usage;
        }
        $usage = [];
        $catalog = $this->world->catalog();
        foreach ($this->clusters() as $cluster) {
            $reader = new UseReader(self::types($catalog, $cluster->slug), $cluster->dialect);
            $read = [];
            $samples = $this->workload->samples($cluster->id, null);
            foreach ($this->rows($cluster) as $row) {
                // A text without its values cannot always be read: DATE ? is no date.
                $tables = $read["{$row->id} {$row->database_name}"] ??= array_map(
                    static fn ($use): string => $use->table,
                    $reader->read((string) ($samples[(int) $row->id]['sql'] ?? $row->text), (string) $row->database_name) ?? [],
                );
                // Of an account that has run anything it is known what it did not read.
                foreach (array_unique($tables === [] ? [''] : $tables) as $table) {
                    $key = "{$row->user_name}|{$table}";
                    [$count, $last] = $usage[$cluster->slug][$key] ?? [0, 0];
                    $usage[$cluster->slug][$key] = [$count + (int) $row->executions, max($last, (int) $row->last_at)];
                }
            }
        }
        $list = [];
        foreach ($usage as $slug => $found) {
            foreach ($found as $key => [$count, $last]) {
                [$user, $table] = explode('|', $key, 2);
                $list[] = new Usage(
                    Subject::person($user),
                    ObjectPath::of($table === '' ? [(string) $slug] : [(string) $slug, ...explode('.', $table)]),
                    $count,
                    gmdate('Y-m-d', $last),
                );
            }
        }

        return $this->usage = $list;
    }

    /**
     * @return array<string, array<string, \Fulcrion\Core\Catalog\ColumnType>>
     */
    private static function types(AccessCatalog $catalog, string $slug): array
    {
        $types = [];
        foreach ($catalog->tables as $table) {
            if (ObjectPath::within($table->path, $slug)) {
                $types[implode('.', array_slice(ObjectPath::parts($table->path), 1))] = $table->columns;
            }
        }

        return $types;
    }

    /**
     * @return list<Cluster>
     */
    private function clusters(): array
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->where('connector', 'practice')->orderBy('id')->get()->all();

        return $clusters;
    }

    /**
     * @return list<object{id: int, fingerprint: string, text: string, user_name: string, database_name: string, executions: int,
     *     last_at: int}>
     */
    private function rows(Cluster $cluster): array
    {
        $from = Clock::seconds() - self::DAYS * 86_400;

        /**
         * @var list<object{id: int, fingerprint: string, text: string, user_name: string, database_name: string, executions: int,
         *     last_at: int}>
         */
        return DB::select(
            'SELECT s.id, s.fingerprint, s.text, o.user_name, o.database_name, SUM(l.executions) AS executions, MAX(l.bucket_at) AS last_at
            FROM load_day l JOIN statements s ON s.id = l.statement_id JOIN origins o ON o.id = l.origin_id
            WHERE l.cluster_id = ? AND l.bucket_at >= ? GROUP BY s.id, s.fingerprint, s.text, o.user_name, o.database_name',
            [$cluster->id, $from - ($from % 86_400)],
        );
    }
}
