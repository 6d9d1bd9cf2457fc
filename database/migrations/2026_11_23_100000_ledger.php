<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('findings', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('bench', 10);
            $table->string('rule', 40);
            $table->string('object', 300);
            // Of cluster, rule and object: a finding that comes back is the same one.
            $table->char('digest', 32)->unique();
            $table->boolean('act');
            $table->text('problem');
            // Evidence and statements may hold literals of samples.
            $table->text('evidence');
            $table->double('weight_us')->default(0);
            $table->double('weight_bytes')->default(0);
            $table->string('remedy', 20)->default('');
            $table->text('sealed_statements')->nullable();
            $table->string('state', 10)->index();
            $table->text('reason')->nullable();
            $table->string('decided_by', 200)->nullable();
            $table->unsignedBigInteger('waived_until_us')->nullable();
            $table->unsignedBigInteger('first_us');
            $table->unsignedBigInteger('last_us');
            $table->unsignedBigInteger('changed_us');
            $table->unsignedBigInteger('solved_us')->nullable();
            $table->index(['cluster_id', 'object']);
        });
        Schema::create('changes', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('finding_id')->nullable()->index();
            $table->unsignedSmallInteger('cluster_id');
            $table->string('object', 300);
            $table->string('title', 300);
            $table->string('kind', 20);
            $table->text('sealed_steps');
            $table->text('sealed_inverse');
            $table->json('expected');
            $table->json('workload');
            $table->double('copy_share')->default(1);
            $table->string('state', 10)->index();
            // What a worker does with it right now, and for whom the object is held.
            $table->string('doing', 12)->default('');
            $table->string('claim', 190)->nullable()->unique();
            $table->string('progress', 300)->default('');
            $table->double('done_share')->default(0);
            $table->unsignedSmallInteger('step')->default(0);
            $table->unsignedBigInteger('beat_us')->nullable();
            $table->boolean('stop_asked')->default(false);
            $table->text('error')->nullable();
            $table->string('kept_table', 200)->nullable();
            $table->unsignedBigInteger('grace_until_us')->nullable();
            $table->unsignedInteger('version_before')->nullable();
            $table->unsignedInteger('version_after')->nullable();
            $table->string('checksum_before', 60)->nullable();
            $table->string('checksum_after', 60)->nullable();
            $table->unsignedBigInteger('asked_us');
            $table->string('asked_by', 200);
            foreach (['rehearsed', 'approved', 'applied', 'undone', 'failed'] as $act) {
                $table->unsignedBigInteger("{$act}_us")->nullable();
                $table->string("{$act}_by", 200)->nullable();
            }
            $table->index(['cluster_id', 'object']);
        });
        Schema::create('proofs', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('change_id')->index();
            $table->string('kind', 12);
            $table->unsignedBigInteger('made_us');
            $table->string('made_by', 200);
            $table->json('conditions');
            $table->mediumText('measured');
            $table->text('sentence');
            $table->double('factor');
            $table->boolean('holds');
        });
        Schema::create('upkeep_plans', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('object', 300);
            $table->json('acts');
            $table->string('cron', 60)->nullable();
            $table->json('thresholds');
            $table->unsignedSmallInteger('expire_days')->default(7);
            $table->unsignedSmallInteger('keep')->default(2);
            $table->unsignedTinyInteger('hours_from')->default(0);
            $table->unsignedTinyInteger('hours_to')->default(24);
            $table->boolean('paused')->default(false);
            $table->unsignedBigInteger('checked_us')->nullable();
            $table->string('made_by', 200);
            $table->unique(['cluster_id', 'object']);
        });
        Schema::create('upkeep_runs', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('plan_id')->index();
            $table->unsignedBigInteger('started_us');
            $table->unsignedBigInteger('ended_us')->nullable();
            $table->boolean('dry');
            $table->string('why', 200);
            $table->json('log');
            $table->unsignedInteger('chunks_before');
            $table->unsignedInteger('chunks_after')->nullable();
            $table->unsignedBigInteger('bytes_before');
            $table->unsignedBigInteger('bytes_after')->nullable();
            $table->text('error')->nullable();
        });
        Schema::create('house_settings', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->string('rule', 40);
            $table->json('thresholds');
            $table->boolean('off')->default(false);
            $table->primary(['cluster_id', 'rule']);
        });
        Schema::create('watchers', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('kind', 10);
            $table->text('target');
            $table->boolean('digest')->default(false);
            $table->boolean('paused')->default(false);
            $table->string('made_by', 200);
        });
        Schema::create('outbox', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('watcher_id')->index();
            $table->unsignedInteger('finding_id')->nullable();
            $table->string('kind', 10);
            $table->string('recipient', 300);
            $table->string('subject', 300);
            $table->mediumText('body');
            $table->string('state', 10)->index();
            $table->text('error')->nullable();
            $table->unsignedTinyInteger('tries')->default(0);
            $table->unsignedBigInteger('made_us');
            $table->unsignedBigInteger('sent_us')->nullable();
        });
        Schema::create('looks', static function (Blueprint $table): void {
            $table->unsignedBigInteger('user_id')->primary();
            $table->unsignedBigInteger('before_us');
            $table->unsignedBigInteger('last_us');
        });
    }

    public function down(): void
    {
        foreach (
            ['findings', 'changes', 'proofs', 'upkeep_plans', 'upkeep_runs', 'house_settings', 'watchers', 'outbox', 'looks'] as $table
        ) {
            Schema::drop($table);
        }
    }
};
