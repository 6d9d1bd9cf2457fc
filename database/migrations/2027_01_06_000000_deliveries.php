<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE deliveries (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            name VARCHAR(120) NOT NULL,
            at INT UNSIGNED NOT NULL,
            files INT UNSIGNED NOT NULL,
            bytes BIGINT UNSIGNED NOT NULL,
            seconds DOUBLE NOT NULL,
            streams DOUBLE NOT NULL,
            file_seconds DOUBLE NOT NULL,
            stream_rate DOUBLE NULL,
            least_bytes BIGINT UNSIGNED NOT NULL,
            most_bytes BIGINT UNSIGNED NOT NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, name, at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // What somebody knows of the way a delivery takes, or what was measured of it.
        DB::statement('CREATE TABLE delivery_links (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            name VARCHAR(120) NOT NULL,
            bytes_per_second DOUBLE NOT NULL,
            said_by VARCHAR(120) NOT NULL,
            said_us BIGINT NOT NULL,
            PRIMARY KEY (cluster_id, name),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE load_trials (
            id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            plan TEXT NOT NULL,
            state VARCHAR(10) NOT NULL,
            progress VARCHAR(300) NOT NULL DEFAULT "",
            done_share DOUBLE NOT NULL DEFAULT 0,
            stop_asked BOOLEAN NOT NULL DEFAULT FALSE,
            error VARCHAR(400) NULL,
            asked_us BIGINT NOT NULL,
            asked_by VARCHAR(120) NOT NULL,
            heartbeat_us BIGINT NOT NULL,
            result TEXT NULL,
            PRIMARY KEY (id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        foreach (['load_trials', 'delivery_links', 'deliveries'] as $table) {
            Schema::drop($table);
        }
    }
};
