<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    private const SUMS = [
        'executions', 'in_flight_us', 'cpu_us', 'queued_us', 'bytes_scanned', 'bytes_spilled', 'rows_returned', 'errors',
    ];

    public function up(): void
    {
        // Facts added up without the statement, and without who ran it, by day, week and month: most questions need no more.
        foreach (['origin', 'statement'] as $key) {
            foreach (['days', 'weeks', 'months'] as $grain) {
                $sums = implode(', ', array_map(static fn (string $name): string => "{$name} BIGINT NOT NULL DEFAULT 0", self::SUMS));
                DB::statement("CREATE TABLE usage_{$key}_{$grain} (
                    day_at INT UNSIGNED NOT NULL,
                    cluster_id SMALLINT UNSIGNED NOT NULL,
                    team_id SMALLINT UNSIGNED NOT NULL,
                    {$key}_id INT UNSIGNED NOT NULL,
                    {$sums},
                    PRIMARY KEY (day_at, cluster_id, team_id, {$key}_id),
                    KEY by_team (team_id, day_at)
                ) ENGINE = InnoDB");
            }
            $sums = implode(', ', array_map(static fn (string $name): string => "SUM({$name})", self::SUMS));
            DB::statement("INSERT INTO usage_{$key}_days SELECT day_at, cluster_id, team_id, {$key}_id, {$sums} FROM usage_facts "
                ."GROUP BY day_at, cluster_id, team_id, {$key}_id");
        }
        // From a person or a statement to its days.
        DB::statement('ALTER TABLE usage_facts ADD KEY by_origin (origin_id, day_at), ADD KEY by_statement (statement_id, day_at)');
        DB::statement('ALTER TABLE usage_statement_days ADD KEY by_statement (statement_id, day_at)');
        // Weeks and months whose sums hold; a correction takes them out.
        Schema::create('usage_spans', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->string('grain', 8);
            $table->unsignedInteger('from_at');
            $table->primary(['cluster_id', 'grain', 'from_at']);
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        DB::statement('ALTER TABLE usage_facts DROP KEY by_origin, DROP KEY by_statement');
        Schema::drop('usage_spans');
        foreach (['origin', 'statement'] as $key) {
            foreach (['days', 'weeks', 'months'] as $grain) {
                Schema::drop("usage_{$key}_{$grain}");
            }
        }
    }
};
