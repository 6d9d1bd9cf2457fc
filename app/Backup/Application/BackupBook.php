<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupHistory;
use Fulcrion\Core\Backup\BackupKind;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Which backups were taken, and what checking them showed.
 */
final readonly class BackupBook
{
    private const KEPT_US = 400 * 86_400_000_000;

    /** What began longer ago is not looked at, so that a chain of incremental backups may be so long. */
    private const LOOKED_AT_US = 120 * 86_400_000_000;

    private const MOST_DAMAGE = 50;

    /**
     * The same backup told again takes the place of what was told before; what checking showed stays where it is still the same files.
     *
     * @param  list<Backup>  $backups
     */
    public function keep(Cluster $cluster, array $backups): void
    {
        $rows = [];
        foreach ($backups as $one) {
            $rows["{$one->plan} {$one->startedUs}"] = [
                'cluster_id' => $cluster->id, 'plan' => $one->plan, 'kind' => $one->kind->value,
                'schemas_json' => json_encode($one->schemas, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE),
                'started_us' => $one->startedUs, 'ended_us' => $one->endedUs, 'bytes' => $one->bytes, 'place' => $one->place,
                'failure' => $one->failure, 'removed_us' => $one->removedUs,
            ];
        }
        $same = 'place <=> VALUES(place) AND bytes <=> VALUES(bytes) AND ended_us = VALUES(ended_us)';
        foreach (array_chunk(array_values($rows), 500) as $chunk) {
            // What depends on the values before comes before they are set: the server does it in this order.
            DB::table('backups')->upsert($chunk, ['cluster_id', 'plan', 'started_us'], [
                'checked_us' => DB::raw("IF({$same}, checked_us, NULL)"),
                'damage_json' => DB::raw("IF({$same}, damage_json, NULL)"),
                'kind', 'schemas_json', 'ended_us', 'bytes', 'place', 'failure', 'removed_us',
            ]);
        }
    }

    /**
     * @param  list<string>  $damage empty where all was as it should be
     */
    public function checked(int $id, int $atUs, array $damage): void
    {
        DB::table('backups')->where('id', $id)->update(['checked_us' => $atUs, 'damage_json' => $damage === [] ? null
            : json_encode(array_slice($damage, 0, self::MOST_DAMAGE), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE)]);
    }

    public function history(Cluster $cluster, int $atUs): BackupHistory
    {
        return BackupHistory::at(array_values(DB::table('backups')->where('cluster_id', $cluster->id)
            ->where('started_us', '>', $atUs - self::LOOKED_AT_US)->where('started_us', '<=', $atUs)->get()
            ->map(self::read(...))->all()), $atUs);
    }

    public function knows(Cluster $cluster): bool
    {
        return DB::table('backups')->where('cluster_id', $cluster->id)->exists();
    }

    /** @return array{int, Backup}|null cluster and backup */
    public function find(int $id): ?array
    {
        $row = DB::table('backups')->where('id', $id)->first();

        return $row === null ? null : [(int) $row->cluster_id, self::read($row)];
    }

    public function forget(int $id): void
    {
        DB::table('backups')->where('id', $id)->delete();
    }

    public function prune(int $nowUs): void
    {
        DB::table('backups')->where('started_us', '<', $nowUs - self::KEPT_US)->delete();
    }

    private static function read(stdClass $row): Backup
    {
        /** @var non-empty-list<string> $schemas */
        $schemas = json_decode((string) $row->schemas_json, true);
        /** @var list<string> $damage */
        $damage = $row->damage_json === null ? [] : json_decode((string) $row->damage_json, true);
        $whole = static fn (mixed $value): ?int => $value === null ? null : (int) $value;

        return new Backup((string) $row->plan, BackupKind::from((string) $row->kind), $schemas, (int) $row->started_us,
            (int) $row->ended_us, $whole($row->bytes), (string) $row->place, $row->failure === null ? null : (string) $row->failure,
            $whole($row->removed_us), $whole($row->checked_us), $damage, (int) $row->id);
    }
}
