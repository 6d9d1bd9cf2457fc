<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;

/**
 * The tables readings are kept in, made at another server as they are here.
 */
final readonly class PlaceTables
{
    public const BY_SERIES = ['metric_blocks', 'metric_days'];

    public const BY_HOST = ['metric_frames', 'host_processes'];

    private const OWNER = 'readings_kept_for';

    /**
     * @throws PlaceError saying what is missing and what helps
     */
    public function make(KeptPlace $place): void
    {
        $there = Places::connected($place);
        try {
            $this->own($place, $there);
            foreach ([...self::BY_SERIES, ...self::BY_HOST] as $table) {
                $there->statement($this->definition($table));
                if (self::columns($there, $table) !== self::columns(DB::connection(), $table)) {
                    throw new PlaceError("There is another table {$table} in {$place->said()}. Name a database of its own.");
                }
            }
            // What will be done there, done and undone.
            $there->transaction(static function () use ($there): void {
                $row = ['cluster_id' => 0, 'host' => '', 'at' => 0];
                $there->table('host_processes')->insertOrIgnore($row + ['body' => '']);
                $there->table('host_processes')->where($row)->update(['body' => '-']);
                $there->table('host_processes')->where($row)->delete();
            });
        } catch (PlaceError $error) {
            throw str_contains($error->getMessage(), 'denied')
                ? new PlaceError("{$error->getMessage()}. The account needs these rights: ".self::grant($place)) : $error;
        }
    }

    /**
     * Whether it keeps readings of this installation already.
     *
     * @throws PlaceError where it cannot be reached
     */
    public function isOurs(KeptPlace $place): bool
    {
        $there = Places::connected($place);

        return self::columns($there, self::OWNER) !== []
            && $there->table(self::OWNER)->where('installation', self::installation())->exists();
    }

    public static function grant(KeptPlace $place): string
    {
        $database = '`'.str_replace('`', '``', $place->name).'`';

        return "GRANT CREATE, SELECT, INSERT, UPDATE, DELETE ON {$database}.* TO '".addslashes($place->username)."'@'%'";
    }

    /** Two installations number their series each in their own way. */
    private function own(KeptPlace $place, Connection $there): void
    {
        $there->statement('CREATE TABLE IF NOT EXISTS '.self::OWNER.' (installation CHAR(32) NOT NULL PRIMARY KEY)');
        $own = self::installation();
        $there->table(self::OWNER)->insertOrIgnore(['installation' => $own]);
        if ($there->table(self::OWNER)->where('installation', '!=', $own)->exists()) {
            $there->table(self::OWNER)->where('installation', $own)->delete();
            throw new PlaceError("{$place->said()} keeps readings of another installation. Name a database of its own.");
        }
    }

    private static function installation(): string
    {
        return substr(hash('sha256', 'readings '.config('app.key')), 0, 32);
    }

    private function definition(string $table): string
    {
        $row = (array) DB::selectOne("SHOW CREATE TABLE {$table}");
        $made = (string) ($row['Create Table'] ?? '');
        // What it hangs on stays here.
        $alone = (string) preg_replace('~,\s*CONSTRAINT [^\n]*~', '', $made);

        return (string) preg_replace('~^CREATE TABLE~', 'CREATE TABLE IF NOT EXISTS', $alone);
    }

    /**
     * @return list<string>
     */
    private static function columns(Connection $connection, string $table): array
    {
        $columns = [];
        foreach ($connection->select('SELECT COLUMN_NAME AS name, COLUMN_TYPE AS type FROM information_schema.COLUMNS WHERE '
            .'TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ? ORDER BY ORDINAL_POSITION', [$table]) as $row) {
            $columns[] = "{$row->name} {$row->type}";
        }

        return $columns;
    }
}
