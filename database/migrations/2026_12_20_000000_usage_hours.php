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
        Schema::create('estate_settings', static function (Blueprint $table): void {
            $table->string('name', 40)->primary();
            $table->string('value', 190);
        });
        // What an hour was used for; facts of days are their sums, by the days of the time zone of the estate.
        $sums = implode(', ', array_map(static fn (string $name): string => "{$name} BIGINT NOT NULL DEFAULT 0", [
            'executions', 'in_flight_us', 'cpu_us', 'queued_us', 'bytes_scanned', 'bytes_spilled', 'rows_returned', 'errors',
        ]));
        DB::statement("CREATE TABLE usage_hours (
            hour_at INT UNSIGNED NOT NULL,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            team_id SMALLINT UNSIGNED NOT NULL,
            origin_id INT UNSIGNED NOT NULL,
            statement_id INT UNSIGNED NOT NULL,
            corrected_at INT UNSIGNED NOT NULL DEFAULT 0,
            day_at INT UNSIGNED NOT NULL,
            {$sums},
            PRIMARY KEY (hour_at, cluster_id, team_id, origin_id, statement_id, corrected_at),
            KEY by_day (day_at, cluster_id)
        ) ENGINE = InnoDB");
        DB::statement('INSERT INTO usage_hours SELECT l.bucket_at, l.cluster_id, u.team_id, l.origin_id, l.statement_id, 0, u.day_at, '
            .'l.executions, l.load_us, l.cpu_us, l.queued_us, l.bytes_scanned, l.bytes_spilled, l.rows_returned, '
            .'l.errors + l.cancelled + l.timed_out FROM load_hour l JOIN usage_origin_days u ON u.cluster_id = l.cluster_id AND '
            .'u.origin_id = l.origin_id AND u.day_at = l.bucket_at - l.bucket_at % 86400');
        // Where days are put into those of another time zone: which.
        Schema::table('usage_runs', static function (Blueprint $table): void {
            $table->string('zone', 60)->nullable();
        });
        // Of each hour the part in which something ran, so that what was idle is known when the hours are not.
        Schema::table('usage_days', static function (Blueprint $table): void {
            $table->unsignedBigInteger('busy_us')->default(0);
        });
        DB::statement('UPDATE usage_days d JOIN (SELECT cluster_id, day_at, SUM(LEAST(3600000000, us)) AS us FROM (SELECT cluster_id, '
            .'day_at, hour_at, SUM(in_flight_us) AS us FROM usage_hours GROUP BY cluster_id, day_at, hour_at) h GROUP BY cluster_id, '
            .'day_at) b ON b.cluster_id = d.cluster_id AND b.day_at = d.day_at SET d.busy_us = b.us');
    }

    public function down(): void
    {
        Schema::table('usage_days', static function (Blueprint $table): void {
            $table->dropColumn('busy_us');
        });
        Schema::table('usage_runs', static function (Blueprint $table): void {
            $table->dropColumn('zone');
        });
        Schema::drop('usage_hours');
        Schema::drop('estate_settings');
    }
};
