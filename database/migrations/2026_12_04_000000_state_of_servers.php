<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * How live servers were over time, when they were started again and how their variables changed.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('server_states', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedInteger('at');
            // All values of the reading, packed.
            $table->binary('packed');
            $table->primary(['cluster_id', 'at']);
        });
        Schema::create('server_events', static function (Blueprint $table): void {
            $table->id();
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedBigInteger('at_us');
            $table->string('kind', 20);
            $table->string('name', 100)->default('');
            $table->text('before')->nullable();
            $table->text('after')->nullable();
            $table->index(['cluster_id', 'at_us']);
        });
        Schema::create('server_memories', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id')->primary();
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedBigInteger('started_us');
            $table->unsignedBigInteger('read_us');
            $table->unsignedBigInteger('variables_us')->default(0);
            $table->mediumText('variables')->nullable();
            $table->double('lock_ms')->nullable();
            $table->json('waiting')->nullable();
        });
        Schema::create('row_lock_time', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedInteger('bucket_at');
            // Empty where nobody was seen waiting.
            $table->char('statement', 32)->default('');
            $table->unsignedBigInteger('waited_us');
            $table->primary(['cluster_id', 'bucket_at', 'statement']);
        });
    }

    public function down(): void
    {
        foreach (['row_lock_time', 'server_memories', 'server_events', 'server_states'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
