<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Who tells of a host, when it was heard of last, and what of it could not be taken then.
        DB::statement('CREATE TABLE metric_sources (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            kind VARCHAR(20) NOT NULL,
            first_at INT UNSIGNED NOT NULL,
            last_at INT UNSIGNED NOT NULL,
            ahead_ms BIGINT NOT NULL DEFAULT 0,
            refused INT UNSIGNED NOT NULL DEFAULT 0,
            complaint VARCHAR(500) NULL,
            PRIMARY KEY (cluster_id, host, kind),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // Where senders tell only what was added: what it comes to.
        DB::statement('CREATE TABLE metric_totals (
            series_id INT UNSIGNED NOT NULL,
            at_ms BIGINT UNSIGNED NOT NULL,
            value DOUBLE NOT NULL,
            PRIMARY KEY (series_id),
            FOREIGN KEY (series_id) REFERENCES metric_series (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // Addresses that are asked for their metrics.
        DB::statement('CREATE TABLE metric_scrapes (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            address VARCHAR(500) NOT NULL,
            every_seconds SMALLINT UNSIGNED NOT NULL,
            made_by VARCHAR(190) NOT NULL,
            asked_at INT UNSIGNED NOT NULL DEFAULT 0,
            last_error VARCHAR(500) NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, host, address),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        foreach (['metric_scrapes', 'metric_totals', 'metric_sources'] as $table) {
            Schema::drop($table);
        }
    }
};
