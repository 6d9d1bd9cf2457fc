<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE baseline_runs (
            id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            plan TEXT NOT NULL,
            state VARCHAR(10) NOT NULL,
            outcome VARCHAR(12) NULL,
            at INT UNSIGNED NULL,
            `values` TEXT NULL,
            notes TEXT NULL,
            progress VARCHAR(300) NOT NULL DEFAULT "",
            done_share DOUBLE NOT NULL DEFAULT 0,
            stop_asked BOOLEAN NOT NULL DEFAULT FALSE,
            error VARCHAR(400) NULL,
            asked_us BIGINT NOT NULL,
            asked_by VARCHAR(120) NOT NULL,
            heartbeat_us BIGINT NOT NULL,
            PRIMARY KEY (id),
            KEY of_host (cluster_id, host, state),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('baseline_runs');
    }
};
