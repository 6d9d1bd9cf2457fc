<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // One plan a shape, statement and cluster; the figures are those of its last run.
        Schema::create('plans', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->char('statement', 32)->index();
            $table->char('shape', 32);
            $table->string('engine', 20);
            $table->boolean('actual');
            $table->unsignedBigInteger('first_us');
            $table->unsignedBigInteger('last_us');
            $table->unsignedBigInteger('executions')->default(0);
            $table->unsignedBigInteger('duration_us')->default(0);
            // Conditions hold literals, so the plan is sealed like samples are.
            $table->mediumText('sealed');
            $table->unique(['cluster_id', 'statement', 'shape']);
        });
        Schema::create('runs', static function (Blueprint $table): void {
            $table->increments('id');
            $table->char('key', 36)->unique();
            $table->unsignedBigInteger('user_id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('schema', 64)->default('');
            $table->string('mode', 10);
            $table->string('state', 10);
            $table->char('statement', 32);
            $table->mediumText('sealed_sql');
            $table->unsignedBigInteger('started_us');
            $table->unsignedBigInteger('elapsed_us')->nullable();
            $table->unsignedBigInteger('modelled_us')->nullable();
            $table->unsignedInteger('row_count')->nullable();
            $table->boolean('cut')->default(false);
            $table->text('message')->nullable();
            $table->unsignedInteger('error_offset')->nullable();
            $table->unsignedInteger('plan_id')->nullable();
            $table->boolean('stop_asked')->default(false);
            $table->index(['user_id', 'started_us']);
        });
    }

    public function down(): void
    {
        Schema::drop('runs');
        Schema::drop('plans');
    }
};
