<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * All work in the background says in the same columns how far it has come and that it lives.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('imports', static function (Blueprint $table): void {
            $table->bigInteger('heartbeat_us')->default(0);
        });
        // Seconds and microseconds apart, since the product of both is not exact.
        DB::statement(
            'UPDATE imports SET heartbeat_us = TIMESTAMPDIFF(SECOND, TIMESTAMP \'1970-01-01 00:00:00\', heartbeat_at) * 1000000
            + MICROSECOND(heartbeat_at) WHERE heartbeat_at IS NOT NULL',
        );
        Schema::table('imports', static function (Blueprint $table): void {
            $table->dropColumn('heartbeat_at');
        });
        Schema::table('workbench_runs', static function (Blueprint $table): void {
            $table->bigInteger('heartbeat_us')->default(0);
        });
        DB::statement('UPDATE workbench_runs SET heartbeat_us = started_us');
    }

    public function down(): void
    {
        Schema::table('imports', static function (Blueprint $table): void {
            $table->timestamp('heartbeat_at', 6)->nullable();
        });
        DB::statement(
            'UPDATE imports SET heartbeat_at = TIMESTAMPADD(MICROSECOND, heartbeat_us, TIMESTAMP \'1970-01-01 00:00:00\')
            WHERE heartbeat_us > 0',
        );
        foreach (['imports', 'workbench_runs'] as $name) {
            Schema::table($name, static function (Blueprint $table): void {
                $table->dropColumn('heartbeat_us');
            });
        }
    }
};
