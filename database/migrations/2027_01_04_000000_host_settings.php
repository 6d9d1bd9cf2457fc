<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // A row for each value a setting had, from when it was first read.
        DB::statement('CREATE TABLE host_settings (
            id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            name VARCHAR(190) NOT NULL,
            value VARCHAR(500) NULL,
            is_told BOOLEAN NOT NULL DEFAULT TRUE,
            from_at INT UNSIGNED NOT NULL,
            until_at INT UNSIGNED NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, host, name, from_at),
            KEY by_time (cluster_id, from_at),
            KEY now (cluster_id, until_at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE host_setting_reads (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            part VARCHAR(10) NOT NULL,
            read_at INT UNSIGNED NOT NULL,
            PRIMARY KEY (cluster_id, host, part),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE setting_profiles (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            text MEDIUMTEXT NOT NULL,
            saved_us BIGINT NOT NULL,
            saved_by VARCHAR(120) NOT NULL,
            PRIMARY KEY (cluster_id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        foreach (['setting_profiles', 'host_setting_reads', 'host_settings'] as $table) {
            Schema::drop($table);
        }
    }
};
