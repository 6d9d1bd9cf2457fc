<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('limits', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('measure', 12);
            $table->string('kind', 12);
            $table->string('name', 190);
            $table->string('period', 12);
            // In bytes, microseconds, executions or millionths of the currency.
            $table->unsignedBigInteger('amount');
            $table->char('currency', 3)->default('');
            $table->json('thresholds');
            // Follows from the amount and the thresholds, so that one statement can decide by it.
            $table->unsignedBigInteger('holds_at')->nullable();
            $table->string('state', 8);
            $table->unsignedBigInteger('lifted_until_us')->default(0);
            $table->string('recipient', 190)->nullable();
            $table->unsignedBigInteger('watcher_id')->nullable();
            $table->string('ask', 190)->default('');
            $table->string('made_by', 190);
            $table->unsignedBigInteger('made_us');
            $table->unsignedBigInteger('changed_us');
            $table->index(['state', 'kind', 'name']);
        });
        Schema::create('limit_counters', static function (Blueprint $table): void {
            $table->unsignedInteger('limit_id');
            $table->unsignedInteger('from_at');
            // Of executions that are kept like those that are observed, and of what only runs from here.
            $table->unsignedBigInteger('settled')->default(0);
            $table->unsignedBigInteger('apart')->default(0);
            $table->unsignedBigInteger('reserved')->default(0);
            $table->unsignedInteger('running')->default(0);
            $table->primary(['limit_id', 'from_at']);
            $table->foreign('limit_id')->references('id')->on('limits')->cascadeOnDelete();
        });
        // What runs now, so that what dies with its process does not stay reserved.
        Schema::create('limit_runs', static function (Blueprint $table): void {
            $table->char('token', 32);
            $table->unsignedInteger('limit_id');
            $table->unsignedInteger('from_at');
            $table->unsignedBigInteger('amount');
            $table->unsignedBigInteger('expires_us')->index();
            $table->primary(['token', 'limit_id']);
            $table->foreign('limit_id')->references('id')->on('limits')->cascadeOnDelete();
        });
        Schema::create('limit_acts', static function (Blueprint $table): void {
            $table->unsignedInteger('limit_id');
            $table->unsignedInteger('from_at');
            $table->unsignedSmallInteger('percent');
            $table->string('act', 8);
            $table->unsignedBigInteger('at_us');
            $table->unsignedBigInteger('used');
            $table->primary(['limit_id', 'from_at', 'percent']);
            $table->foreign('limit_id')->references('id')->on('limits')->cascadeOnDelete();
        });
        Schema::create('limit_refusals', static function (Blueprint $table): void {
            $table->id();
            $table->unsignedInteger('limit_id');
            $table->unsignedInteger('from_at');
            $table->unsignedBigInteger('at_us');
            $table->string('login', 190);
            $table->string('application', 190);
            $table->unsignedSmallInteger('cluster_id');
            $table->char('fingerprint', 32);
            $table->string('how', 12);
            $table->index(['limit_id', 'at_us']);
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->foreign('limit_id')->references('id')->on('limits')->cascadeOnDelete();
        });
        Schema::create('limit_lifts', static function (Blueprint $table): void {
            $table->id();
            $table->unsignedInteger('limit_id')->index();
            $table->string('made_by', 190);
            $table->string('reason', 500);
            $table->unsignedBigInteger('at_us');
            $table->unsignedBigInteger('until_us');
            $table->unsignedBigInteger('ended_us')->nullable();
            $table->foreign('limit_id')->references('id')->on('limits')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        foreach (['limit_lifts', 'limit_refusals', 'limit_acts', 'limit_runs', 'limit_counters', 'limits'] as $table) {
            Schema::drop($table);
        }
    }
};
