<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE backups (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            plan VARCHAR(120) NOT NULL,
            kind VARCHAR(12) NOT NULL,
            schemas_json MEDIUMTEXT NOT NULL,
            started_us BIGINT NOT NULL,
            ended_us BIGINT NOT NULL,
            bytes BIGINT UNSIGNED NULL,
            place VARCHAR(400) NOT NULL DEFAULT "",
            failure VARCHAR(400) NULL,
            removed_us BIGINT NULL,
            checked_us BIGINT NULL,
            damage_json TEXT NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, plan, started_us),
            KEY since (cluster_id, started_us),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE backup_checks (
            id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
            backup_id INT UNSIGNED NOT NULL,
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
            FOREIGN KEY (backup_id) REFERENCES backups (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('backup_checks');
        Schema::drop('backups');
    }
};
