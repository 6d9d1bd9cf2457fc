<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Models\Cluster;
use App\Platform\Figures\TimeMarks;
use Fulcrion\Core\Settings\SettingCommand;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * How hosts are set and were set: each value with the time it was first and last read.
 */
final readonly class SettingsStore
{
    private const LONGEST = 500;

    private const KEPT_SECONDS = 400 * 86_400;

    private const MOST = 500;

    /**
     * Takes what was read. What is there no more is noted as well.
     *
     * @param  string  $part whose settings these are: host or server; those of the other part stay
     * @param  array<string, string|null>  $settings by name; null where it cannot be read
     * @return int settings that are otherwise than before
     */
    public function take(Cluster $cluster, string $host, string $part, array $settings, int $at): int
    {
        return DB::transaction(function () use ($cluster, $host, $part, $settings, $at): int {
            DB::table('host_setting_reads')
                ->insertOrIgnore(['cluster_id' => $cluster->id, 'host' => $host, 'part' => $part, 'read_at' => 0]);
            $read = DB::table('host_setting_reads')->where('cluster_id', $cluster->id)->where('host', $host)->where('part', $part)
                ->lockForUpdate()->value('read_at');
            if ((int) $read >= $at) {
                // A reading that came late, or twice.
                return 0;
            }
            $known = [];
            foreach (DB::table('host_settings')->where('cluster_id', $cluster->id)->where('host', $host)->whereNull('until_at')
                ->get(['id', 'name', 'value', 'is_told']) as $row) {
                if (self::part((string) $row->name) === $part) {
                    $known[(string) $row->name] = $row;
                }
            }
            $rows = $ended = [];
            foreach ($settings as $name => $value) {
                $name = mb_strcut((string) $name, 0, 190);
                $value = $value === null ? null : mb_strcut($value, 0, self::LONGEST);
                $before = $known[$name] ?? null;
                if ($before === null || $before->value !== $value || ! (bool) $before->is_told) {
                    $ended[] = $before?->id;
                    $rows[] = self::row($cluster->id, $host, $name, $value, true, $at);
                }
                unset($known[$name]);
            }
            foreach ($known as $name => $gone) {
                if ((bool) $gone->is_told) {
                    $ended[] = $gone->id;
                    $rows[] = self::row($cluster->id, $host, $name, null, false, $at);
                }
            }
            DB::table('host_settings')->whereIn('id', array_filter($ended, static fn (mixed $id): bool => $id !== null))
                ->update(['until_at' => $at]);
            foreach (array_chunk($rows, 500) as $chunk) {
                DB::table('host_settings')->insert($chunk);
            }
            DB::table('host_setting_reads')->where('cluster_id', $cluster->id)->where('host', $host)->where('part', $part)
                ->update(['read_at' => $at]);

            return count($rows);
        });
    }

    /** Whether a setting is one of a server or of its host. */
    public static function part(string $name): string
    {
        return str_starts_with($name, SettingCommand::SERVER) ? 'server' : 'host';
    }

    /**
     * @param  int|null  $at how it was then; null for now
     * @return array<string, array<string, string|null>> by host, by name
     */
    public function of(Cluster $cluster, ?int $at = null): array
    {
        $query = DB::table('host_settings')->where('cluster_id', $cluster->id)->where('is_told', true);
        $query = $at === null ? $query->whereNull('until_at') : $query->where('from_at', '<=', $at)
            ->where(static fn ($of) => $of->whereNull('until_at')->orWhere('until_at', '>', $at));
        $settings = [];
        foreach ($query->get(['host', 'name', 'value']) as $row) {
            $settings[(string) $row->host][(string) $row->name] = $row->value === null ? null : (string) $row->value;
        }
        ksort($settings, SORT_NATURAL);

        return $settings;
    }

    /**
     * @return array<string, array<string, int>> Unix second of the last reading, by host and part
     */
    public function reads(Cluster $cluster): array
    {
        $reads = [];
        foreach (DB::table('host_setting_reads')->where('cluster_id', $cluster->id)->get() as $row) {
            $reads[(string) $row->host][(string) $row->part] = (int) $row->read_at;
        }

        return $reads;
    }

    /**
     * Settings that became otherwise in a span, newest first; what was read for the first time is left out.
     *
     * @return list<stdClass> host, name, from_at, before and after; null where it was not there or could not be read
     */
    public function changed(int $clusterId, int $from, int $to): array
    {
        return array_values(DB::table('host_settings AS now')
            ->join('host_settings AS was', static fn ($join) => $join->on('was.cluster_id', 'now.cluster_id')->on('was.host', 'now.host')
                ->on('was.name', 'now.name')->on('was.until_at', 'now.from_at'))
            ->where('now.cluster_id', $clusterId)->whereBetween('now.from_at', [$from, $to - 1])
            ->orderByDesc('now.from_at')->orderBy('now.host')->orderBy('now.name')->limit(self::MOST)
            ->get(['now.host', 'now.name', 'now.from_at', 'was.value AS before', 'now.value AS after'])->all());
    }

    /**
     * Settings of hosts that became otherwise, for figures over time. Variables of servers are told by the state of servers.
     *
     * @return array<int, string> name by Unix second
     */
    public function marks(int $clusterId, int $from, int $to): array
    {
        $marks = [];
        foreach ($this->changed($clusterId, $from, $to) as $row) {
            if (self::part((string) $row->name) === 'host') {
                $marks[] = [(int) $row->from_at, "{$row->host}: {$row->name}"];
            }
        }

        return TimeMarks::named(array_reverse($marks));
    }

    public function prune(int $now): void
    {
        DB::table('host_settings')->whereNotNull('until_at')->where('until_at', '<', $now - self::KEPT_SECONDS)->delete();
    }

    /**
     * @return array<string, mixed>
     */
    private static function row(int $clusterId, string $host, string $name, ?string $value, bool $isTold, int $at): array
    {
        return ['cluster_id' => $clusterId, 'host' => $host, 'name' => $name, 'value' => $value, 'is_told' => $isTold, 'from_at' => $at];
    }
}
