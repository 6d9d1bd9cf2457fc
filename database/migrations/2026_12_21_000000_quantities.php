<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // How large tables were on each day, as their cluster told it last.
        DB::statement('CREATE TABLE stored_tables (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            day_at INT UNSIGNED NOT NULL,
            path VARCHAR(190) NOT NULL,
            bytes BIGINT UNSIGNED NOT NULL,
            PRIMARY KEY (cluster_id, day_at, path),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // What somebody wrote down: how much there is from a day on, or was on some days.
        Schema::create('cost_quantities', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('kind', 30);
            $table->string('name', 120)->default('');
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at')->nullable();
            $table->decimal('quantity', 24, 10);
            $table->string('made_by', 200);
            $table->unsignedBigInteger('made_us');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
        // Which part of a cluster a team reserved, and from when until when.
        Schema::create('cost_reservations', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('team', 120);
            $table->decimal('percent', 7, 4);
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at')->nullable();
            $table->string('made_by', 200);
            $table->unsignedBigInteger('made_us');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('cost_reservations');
        Schema::drop('cost_quantities');
        Schema::drop('stored_tables');
    }
};
