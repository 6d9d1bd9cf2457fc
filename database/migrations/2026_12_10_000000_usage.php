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
        Schema::create('usage_teams', static function (Blueprint $table): void {
            $table->smallIncrements('id');
            $table->string('name', 120)->unique();
        });
        // What a day was used for, kept when the load itself has outlived its retention. A correction is a row of its own, with the day
        // it was made; its sums are what the facts of before lack or have too much.
        $sums = implode(', ', array_map(static fn (string $name): string => "{$name} BIGINT NOT NULL DEFAULT 0", [
            'executions', 'in_flight_us', 'cpu_us', 'queued_us', 'bytes_scanned', 'bytes_spilled', 'rows_returned', 'errors',
        ]));
        DB::statement("CREATE TABLE usage_facts (
            day_at INT UNSIGNED NOT NULL,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            team_id SMALLINT UNSIGNED NOT NULL,
            origin_id INT UNSIGNED NOT NULL,
            statement_id INT UNSIGNED NOT NULL,
            corrected_at INT UNSIGNED NOT NULL DEFAULT 0,
            {$sums},
            PRIMARY KEY (day_at, cluster_id, team_id, origin_id, statement_id, corrected_at)
        ) ENGINE = InnoDB");
        Schema::create('usage_days', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->unsignedInteger('day_at');
            // Null while the day may still change.
            $table->unsignedInteger('closed_at')->nullable();
            $table->unsignedInteger('corrected_at')->nullable();
            $table->primary(['cluster_id', 'day_at']);
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('usage_days');
        Schema::drop('usage_facts');
        Schema::drop('usage_teams');
    }
};
