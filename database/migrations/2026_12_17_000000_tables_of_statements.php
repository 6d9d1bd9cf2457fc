<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Which tables a statement names on a cluster, and what part of its use is whose; an empty path where it names none.
        DB::statement('CREATE TABLE statement_tables (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            statement_id INT UNSIGNED NOT NULL,
            path VARCHAR(190) NOT NULL,
            is_read TINYINT(1) NOT NULL,
            is_written TINYINT(1) NOT NULL,
            weight BIGINT UNSIGNED NOT NULL,
            by_plan TINYINT(1) NOT NULL,
            PRIMARY KEY (cluster_id, statement_id, path),
            KEY by_path (cluster_id, path),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('statement_tables');
    }
};
