<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Up to when nodes of a practice cluster are computed, and what their counters say.
        DB::statement('CREATE TABLE practice_nodes (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            until_at INT UNSIGNED NOT NULL,
            counters MEDIUMTEXT NOT NULL,
            PRIMARY KEY (cluster_id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('practice_nodes');
    }
};
