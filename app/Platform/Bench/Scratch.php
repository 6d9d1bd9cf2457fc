<?php

declare(strict_types=1);

namespace App\Platform\Bench;

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
            'database.connections.mariadb.password' => env('DB_TEST_PASSWORD'),
            'database.connections.mariadb.options' => [PDO::MYSQL_ATTR_LOCAL_INFILE => true, PDO::ATTR_EMULATE_PREPARES => true, PDO::ATTR_STRINGIFY_FETCHES => false],
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
        return [...getenv(), 'DB_DATABASE' => 'fulcrion_bench', 'DB_USERNAME' => 'fulcrion_test', 'DB_PASSWORD' => (string) env('DB_TEST_PASSWORD')];
    }

    public static function folder(): string
    {
        $folder = dirname(storage_path()).'/bench';
        is_dir($folder) || mkdir($folder, 0o755, true);

        return $folder;
    }
}
