<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        DB::statement('CREATE TABLE host_processes (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            host VARCHAR(120) NOT NULL,
            at INT UNSIGNED NOT NULL,
            body BLOB NOT NULL,
            PRIMARY KEY (cluster_id, host, at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('host_processes');
    }
};
