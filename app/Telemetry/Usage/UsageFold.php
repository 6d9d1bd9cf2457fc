<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;

/**
 * The statement that adds up usage by some axes: first by numbers, which are few and quick to compare, and only then by what they stand
 * for. All that stands in it is numbers of ours.
 */
final readonly class UsageFold
{
    /** Where each measure comes from in the sums of load. */
    public const SOURCES = [
        'executions' => 'l.executions',
        'in_flight_us' => 'l.load_us',
        'cpu_us' => 'l.cpu_us',
        'queued_us' => 'l.queued_us',
        'bytes_scanned' => 'l.bytes_scanned',
        'bytes_spilled' => 'l.bytes_spilled',
        'rows_returned' => 'l.rows_returned',
        'errors' => 'l.errors + l.cancelled + l.timed_out',
    ];

    private Calendar $calendar;

    /**
     * @param  list<UsageAxis>  $axes
     * @param  list<string>  $sums columns of the facts
     * @param  list<ForemostValues>  $among that it is about; none for all
     */
    public function __construct(
        private UsageScope $scope,
        private Days $days,
        private array $axes,
        private array $sums,
        private array $among = [],
    ) {
        $this->calendar = app(Calendar::class);
    }

    /** By what the axes are called: by0, by1 and the sums; an axis of time is by its start. */
    public function named(): string
    {
        $values = $joins = $group = [];
        foreach ($this->axes as $i => $axis) {
            $values[] = ($axis->field?->column() ?? "f.k{$i}")." AS by{$i}";
            $group[] = "by{$i}";
            $joins[] = $axis->field?->join() ?? '';
        }
        $sums = array_map(static fn (string $sum): string => "SUM(f.{$sum}) AS {$sum}", $this->sums);

        return 'SELECT '.implode(', ', [...$values, ...$sums])." FROM ({$this->numbered()}) f ".implode(' ', array_unique($joins)).
            ($group === [] ? '' : ' GROUP BY '.implode(', ', $group));
    }

    /** By numbers of the fields: team_id, cluster_id, origin_id and statement_id, as far as the axes are of them. */
    public function numbered(): string
    {
        $keys = [];
        foreach ($this->axes as $i => $axis) {
            $column = $axis->column($this->calendar, $this->days);
            $keys[$axis->field?->key() ?? "k{$i}"] = $axis->field === null ? "{$column} AS k{$i}" : "f.{$axis->field->key()}";
        }
        $sums = implode(', ', array_map(static fn (string $sum): string => "SUM(f.{$sum}) AS {$sum}", $this->sums));
        $group = $keys === [] ? '' : ' GROUP BY '.implode(', ', array_keys($keys));
        $conditions = implode(' AND ', $this->conditions());
        $select = implode(', ', [...array_values($keys), $sums]);
        // Each part is added up first: what is put together then is small.
        $parts = array_map(static fn (array $part): string => "SELECT {$select} FROM {$part[0]} f WHERE f.day_at >= {$part[1]->from} AND "
            ."f.day_at < {$part[1]->to} AND {$conditions}{$group}", $this->parts());
        $names = implode(', ', [...array_map(static fn (string $key): string => "f.{$key}", array_keys($keys)), $sums]);

        return count($parts) === 1 ? $parts[0] : "SELECT {$names} FROM (".implode(' UNION ALL ', $parts).") f{$group}";
    }

    /** Conditions on rows f that have the keys of facts. */
    public function where(): string
    {
        return implode(' AND ', ["f.day_at >= {$this->days->from}", "f.day_at < {$this->days->to}", ...$this->conditions()]);
    }

    /**
     * Load as facts, with the hour; who ran something belongs to one team on a day.
     *
     * @param  string  $more further columns of the load l
     */
    public function load(string $table, string $more, string $where): string
    {
        [$from, $to] = $this->calendar->span($this->days);
        $day = ShownTime::day($this->calendar, 'l.bucket_at', $from, $to);
        $sums = [];
        foreach (self::SOURCES as $name => $source) {
            $sums[] = "{$source} AS {$name}";
        }

        // From the load to who ran it: the other way round each of them would be looked for in all of the load.
        return '(SELECT u.day_at, l.bucket_at AS hour_at, l.cluster_id, u.team_id, l.origin_id, l.statement_id, '.implode(', ', $sums).
            "{$more} FROM {$table} l STRAIGHT_JOIN usage_origin_days u ON u.day_at = {$day} AND u.cluster_id = l.cluster_id AND "
            ."u.origin_id = l.origin_id WHERE l.bucket_at >= {$from} AND l.bucket_at < {$to} AND {$where})";
    }

    /**
     * @return non-empty-list<array{string, Days}> what is read, and days of it
     */
    private function parts(): array
    {
        if (array_filter($this->axes, static fn (UsageAxis $axis): bool => $axis->isOfHours()) !== []) {
            return [['usage_hours', $this->days]];
        }
        $fields = [];
        $grains = ['months', 'weeks'];
        foreach ($this->axes as $axis) {
            $grains = array_values(array_intersect($grains, $axis->within()));
            array_push($fields, ...$axis->field === null ? [] : [$axis->field]);
        }

        return UsageSums::parts([
            ...$fields,
            ...array_map(UsageField::from(...), array_keys($this->scope->only)),
            ...array_map(static fn (ForemostValues $one): UsageField => $one->field, $this->among),
        ], $this->days, $grains);
    }

    /**
     * @return list<string>
     */
    private function conditions(): array
    {
        $conditions = ['1 = 1'];
        if ($this->scope->cluster !== null) {
            $conditions[] = "f.cluster_id = {$this->scope->cluster->id}";
        }
        if ($this->scope->teams !== null) {
            // Whoever is limited to no team sees no team.
            $conditions[] = self::among('team_id', DB::table('usage_teams')->whereIn('name', $this->scope->teams)->pluck('id')->all());
        }
        $origins = null;
        foreach ($this->scope->only as $name => $value) {
            $field = UsageField::from($name);
            if ($field->isOfOrigin()) {
                $origins ??= DB::table('origins AS o');
                $origins->where($field->column(), $value);
            } else {
                $conditions[] = self::among($field->key(), match ($field) {
                    UsageField::Team => DB::table('usage_teams')->where('name', $value)->pluck('id')->all(),
                    UsageField::Cluster => DB::table('clusters')->where('slug', $value)->pluck('id')->all(),
                    default => DB::table('statements')->where('fingerprint', $value)->pluck('id')->all(),
                });
            }
        }
        if ($origins !== null) {
            $conditions[] = self::among('origin_id', $origins->pluck('o.id')->all());
        }
        foreach ($this->among as $one) {
            $conditions[] = self::among($one->field->key(), $one->numbers);
        }

        return $conditions;
    }

    /**
     * @param  array<mixed>  $numbers
     */
    private static function among(string $column, array $numbers): string
    {
        return $numbers === [] ? '1 = 0' : "f.{$column} IN (".implode(', ', array_map(intval(...), $numbers)).')';
    }
}
