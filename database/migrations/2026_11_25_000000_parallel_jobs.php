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
        Schema::create('job_series', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('name', 190);
            $table->string('aim', 20)->default('knee');
            // A time of day in UTC.
            $table->string('deadline', 5)->nullable();
            $table->double('budget')->nullable();
            $table->unsignedInteger('next_workers')->nullable();
            $table->unsignedBigInteger('pinned_change_id')->nullable();
            // Where a practice cluster runs it: how, and when.
            $table->longText('plan')->nullable();
            $table->string('runs_at', 5)->nullable();
            // Of what there is to read, in a week.
            $table->double('growth')->default(0);
            $table->unique(['cluster_id', 'name']);
        });
        Schema::create('job_runs', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->unsignedBigInteger('series_id')->nullable()->index();
            // Unique per cluster; while a record is read, one of its own.
            $table->string('external_id', 190);
            $table->string('name', 190)->default('');
            $table->string('owner', 190)->default('');
            // reading, refused, stopped, running, done or failed.
            $table->string('state', 20)->index();
            $table->bigInteger('submitted_us')->default(-1);
            $table
                ->bigInteger('started_us')
                ->default(-1)
                ->index();
            $table->bigInteger('ended_us')->default(-1);
            $table->bigInteger('deadline_us')->default(-1);
            $table->unsignedInteger('workers')->default(0);
            $table->double('price')->nullable();
            $table->string('currency', 190)->default('');
            $table->mediumText('script')->nullable();
            $table->longText('stages')->nullable();
            $table->longText('worker_names')->nullable();
            $table->unsignedInteger('tasks')->default(0);
            // Tasks of old runs go, their figures stay.
            $table->boolean('kept')->default(true);
            $table->boolean('modelled')->default(false);
            $table->longText('problems')->nullable();
            $table->bigInteger('work_us')->default(0);
            $table->bigInteger('input_bytes')->default(0);
            $table->double('idle_share')->default(0);
            $table->bigInteger('predicted_us')->nullable();
            $table->double('prediction_error')->nullable();
            $table->unsignedInteger('best_workers')->nullable();
            $table->double('best_saves')->nullable();
            $table->longText('opinion')->nullable();
            $table->longText('later')->nullable();
            $table->string('file_name', 255)->default('');
            $table->string('path', 500)->nullable();
            $table->string('progress', 300)->default('');
            $table->float('done_share')->default(0);
            $table->boolean('stop_asked')->default(false);
            $table->unsignedBigInteger('asked_us');
            $table->string('asked_by', 200);
            $table->unsignedBigInteger('beat_us');
            $table->unique(['cluster_id', 'external_id']);
        });
        Schema::create('job_chunks', static function (Blueprint $table): void {
            $table->unsignedBigInteger('run_id');
            $table->unsignedInteger('number');
            $table->unsignedInteger('tasks');
            $table->binary('payload');
            $table->primary(['run_id', 'number']);
        });
        DB::statement('ALTER TABLE job_chunks MODIFY payload LONGBLOB NOT NULL');
        // Only while a record is read: which number a task got, and when it ended.
        DB::statement(
            'CREATE TABLE job_task_names (run_id BIGINT UNSIGNED NOT NULL, name VARBINARY(190) NOT NULL, number INT UNSIGNED NOT NULL, '
                .'ended_us BIGINT NOT NULL, PRIMARY KEY (run_id, name))',
        );
    }

    public function down(): void
    {
        foreach (['job_task_names', 'job_chunks', 'job_runs', 'job_series'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
