<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Illuminate\Support\Env;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PDO;

/**
 * A schema and a folder for benches, apart from the application's own.
 */
final class Scratch
{
    public static function use(): void
    {
        config([
            'database.connections.mariadb.database' => 'fulcrion_bench',
            'database.connections.mariadb.username' => 'fulcrion_test',
            'database.connections.mariadb.password' => Env::get('DB_TEST_PASSWORD'),
            'database.connections.mariadb.options' => [
                PDO::MYSQL_ATTR_LOCAL_INFILE => true,
                PDO::ATTR_EMULATE_PREPARES => true,
                PDO::ATTR_STRINGIFY_FETCHES => false,
            ],
        ]);
        DB::purge('mariadb');
    }

    public static function fresh(): void
    {
        self::use();
        Artisan::call('migrate:fresh', ['--force' => true]);
    }

    /**
     * @return array<string, string> environment for a process that works on the bench's schema
     */
    public static function environment(): array
    {
        return [
            ...getenv(),
            'DB_DATABASE' => 'fulcrion_bench',
            'DB_USERNAME' => 'fulcrion_test',
            'DB_PASSWORD' => (string) Env::get('DB_TEST_PASSWORD'),
        ];
    }

    /**
     * Does something with a directory that is there as long as that takes.
     *
     * @template T
     *
     * @param  Closure(string): T  $work
     * @return T
     */
    public static function within(Closure $work): mixed
    {
        $directory = sys_get_temp_dir().'/fulcrion-bench-'.bin2hex(random_bytes(4));
        mkdir($directory, 0o700);
        try {
            return $work($directory);
        } finally {
            exec('rm -rf '.escapeshellarg($directory));
        }
    }

    public static function folder(): string
    {
        $folder = dirname(storage_path()).'/bench';
        is_dir($folder) || mkdir($folder, 0o755, true);

        return $folder;
    }
}
