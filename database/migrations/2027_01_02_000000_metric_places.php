<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Other servers that keep the readings of a cluster.
        DB::statement('CREATE TABLE metric_places (
            id SMALLINT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(190) NOT NULL,
            port SMALLINT UNSIGNED NOT NULL,
            name VARCHAR(64) NOT NULL,
            username TEXT NOT NULL,
            secret TEXT NOT NULL,
            tls BOOLEAN NOT NULL,
            state VARCHAR(10) NOT NULL,
            rows_moved INT UNSIGNED NOT NULL DEFAULT 0,
            rows_all INT UNSIGNED NOT NULL DEFAULT 0,
            error VARCHAR(500) NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('metric_places');
    }
};
