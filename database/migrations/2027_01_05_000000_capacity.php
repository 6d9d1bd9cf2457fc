<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // By the hour; the place is a host and its mount, or empty for all a cluster stores.
        DB::statement('CREATE TABLE capacity_readings (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            place VARCHAR(250) NOT NULL,
            at INT UNSIGNED NOT NULL,
            used_bytes DOUBLE NOT NULL,
            limit_bytes DOUBLE NOT NULL,
            PRIMARY KEY (cluster_id, place, at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // What took it at the end of each day.
        DB::statement('CREATE TABLE capacity_parts (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            day_at INT UNSIGNED NOT NULL,
            kind VARCHAR(10) NOT NULL,
            object VARCHAR(190) NOT NULL,
            bytes DOUBLE NOT NULL,
            PRIMARY KEY (cluster_id, day_at, kind, object),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('capacity_parts');
        Schema::drop('capacity_readings');
    }
};
