<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE profiles (
            id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NULL,
            name VARCHAR(120) NOT NULL,
            kind VARCHAR(10) NOT NULL,
            unit VARCHAR(10) NOT NULL,
            total DOUBLE NOT NULL DEFAULT 0,
            folded DOUBLE NOT NULL DEFAULT 0,
            refused INT UNSIGNED NOT NULL DEFAULT 0,
            only_for BIGINT UNSIGNED NULL,
            plan TEXT NULL,
            stacks LONGBLOB NULL,
            state VARCHAR(10) NOT NULL,
            progress VARCHAR(300) NOT NULL DEFAULT "",
            done_share DOUBLE NOT NULL DEFAULT 0,
            stop_asked BOOLEAN NOT NULL DEFAULT FALSE,
            error VARCHAR(400) NULL,
            asked_us BIGINT NOT NULL,
            asked_by VARCHAR(120) NOT NULL,
            heartbeat_us BIGINT NOT NULL,
            PRIMARY KEY (id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('profiles');
    }
};
