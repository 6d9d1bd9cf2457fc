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
        Schema::create('probes', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id')->unique();
            // In whose name it runs.
            $table->unsignedBigInteger('user_id');
            $table->string('schema', 64)->default('');
            $table->text('sealed');
            $table->unsignedSmallInteger('every_seconds');
            $table->boolean('is_on')->default(true);
            $table->unsignedBigInteger('made_us');
            $table->string('last_error', 500)->nullable();
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
        DB::statement('CREATE TABLE probe_runs (
            probe_id INT UNSIGNED NOT NULL,
            at INT UNSIGNED NOT NULL,
            took_us BIGINT UNSIGNED NULL,
            waited_us BIGINT UNSIGNED NOT NULL DEFAULT 0,
            PRIMARY KEY (probe_id, at),
            FOREIGN KEY (probe_id) REFERENCES probes (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
    }

    public function down(): void
    {
        Schema::drop('probe_runs');
        Schema::drop('probes');
    }
};
