<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE metric_series (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            digest BINARY(8) NOT NULL,
            name VARCHAR(120) NOT NULL,
            unit VARCHAR(40) NOT NULL,
            labels VARCHAR(1000) NOT NULL,
            is_counter BOOLEAN NOT NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, host, digest),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // A reading of a host, all its values in one row, until its hour is over.
        DB::statement('CREATE TABLE metric_frames (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            at_ms BIGINT UNSIGNED NOT NULL,
            body MEDIUMBLOB NOT NULL,
            PRIMARY KEY (cluster_id, host, at_ms),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // An hour of a series: its points, and what the hour was.
        DB::statement('CREATE TABLE metric_blocks (
            series_id INT UNSIGNED NOT NULL,
            hour_at INT UNSIGNED NOT NULL,
            low DOUBLE NOT NULL,
            high DOUBLE NOT NULL,
            sum DOUBLE NOT NULL,
            last DOUBLE NOT NULL,
            points MEDIUMINT UNSIGNED NOT NULL,
            body BLOB NOT NULL,
            PRIMARY KEY (series_id, hour_at),
            FOREIGN KEY (series_id) REFERENCES metric_series (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        foreach (['metric_blocks', 'metric_frames', 'metric_series'] as $table) {
            Schema::drop($table);
        }
    }
};
