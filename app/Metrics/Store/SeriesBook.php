<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use Fulcrion\Core\Metrics\Metric;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Numbers of series: a cluster, a host, a metric and its labels.
 */
final class SeriesBook
{
    /** More series than this of one host is a mistake of who sends them, as a label with another value each time. */
    public const MOST = 2_000;

    /** @var array<string, array<string, int>> number by key, by cluster and host */
    private array $known = [];

    /**
     * @param  list<Metric>  $metrics
     * @return array<int, float> value by number of the series; what is beyond the most a host may have is left out
     */
    public function values(int $clusterId, string $host, array $metrics): array
    {
        $values = [];
        foreach ($this->numbers($clusterId, $host, $metrics) as $place => $number) {
            if ($number !== null && is_finite($metrics[$place]->value)) {
                $values[$number] = $metrics[$place]->value;
            }
        }

        return $values;
    }

    /**
     * @param  list<Metric>  $metrics
     * @return list<int|null> number of the series of each; null beyond the most a host may have
     */
    public function numbers(int $clusterId, string $host, array $metrics): array
    {
        $place = "{$clusterId} {$host}";
        $this->known[$place] ??= $this->read($clusterId, $host);
        $new = [];
        foreach ($metrics as $metric) {
            if (! isset($this->known[$place][$metric->key()]) && count($this->known[$place]) + count($new) < self::MOST) {
                $new[$metric->key()] = $metric;
            }
        }
        if ($new !== []) {
            $this->add($clusterId, $host, $new);
            $this->known[$place] = $this->read($clusterId, $host);
        }
        $known = $this->known[$place];

        return array_map(static fn (Metric $metric): ?int => $known[$metric->key()] ?? null, $metrics);
    }

    /**
     * @param  list<string>  $names of metrics; none for all
     * @return list<KeptSeries>
     */
    public function of(int $clusterId, ?string $host = null, array $names = []): array
    {
        $rows = DB::table('metric_series')->where('cluster_id', $clusterId)
            ->when($host !== null, static fn ($query) => $query->where('host', $host))
            ->when($names !== [], static fn ($query) => $query->whereIn('name', $names))
            ->orderBy('host')->orderBy('name')->orderBy('labels')->get();

        return array_values($rows->map(static fn (stdClass $row): KeptSeries => KeptSeries::read($row))->all());
    }

    /**
     * Metrics of a cluster by their names.
     *
     * @param  string  $without a host that is left out
     * @return list<array{string, string, bool}> name, unit, and whether it only grows
     */
    public function names(int $clusterId, string $without): array
    {
        return array_values(DB::table('metric_series')->where('cluster_id', $clusterId)->where('host', '!=', $without)->groupBy('name')
            ->orderBy('name')->selectRaw('name, MAX(unit) AS unit, MAX(is_counter) AS is_counter')->get()
            ->map(static fn (stdClass $row): array => [(string) $row->name, (string) $row->unit, (bool) $row->is_counter])->all());
    }

    public function hosts(int $clusterId): int
    {
        return DB::table('metric_series')->where('cluster_id', $clusterId)->distinct()->count('host');
    }

    /**
     * @return array<string, int>
     */
    private function read(int $clusterId, string $host): array
    {
        $known = [];
        foreach (DB::table('metric_series')->where('cluster_id', $clusterId)->where('host', $host)->get(['id', 'name', 'labels']) as $row) {
            $known[$row->name.($row->labels === '' ? '' : " {$row->labels}")] = (int) $row->id;
        }

        return $known;
    }

    /**
     * @param  array<string, Metric>  $metrics by key
     */
    private function add(int $clusterId, string $host, array $metrics): void
    {
        $rows = [];
        foreach ($metrics as $key => $metric) {
            $rows[] = [
                'cluster_id' => $clusterId, 'host' => $host, 'digest' => hash('xxh3', $key, true), 'name' => $metric->name,
                'unit' => $metric->unit, 'labels' => ltrim(substr($key, strlen($metric->name))), 'is_counter' => $metric->isCounter,
            ];
        }
        DB::table('metric_series')->insertOrIgnore($rows);
    }
}
