<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('lab_runs', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            // NULL where a file was brought.
            $table->unsignedSmallInteger('cluster_id')->nullable()->index();
            $table->string('object', 300);
            self::work($table);
            $table->longText('result')->nullable();
        });
        Schema::create('tuning_runs', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            $table->unsignedSmallInteger('cluster_id')->index();
            $table->string('title', 300);
            $table->longText('statements');
            $table->longText('limits');
            self::work($table);
            $table->longText('steps')->nullable();
            $table->unsignedBigInteger('ended_us')->nullable();
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('tuning_runs');
        Schema::dropIfExists('lab_runs');
    }

    private static function work(Blueprint $table): void
    {
        $table->string('state', 20);
        $table->string('progress', 300)->default('');
        $table->float('done_share')->default(0);
        $table->boolean('stop_asked')->default(false);
        $table->text('error')->nullable();
        $table->unsignedBigInteger('asked_us')->index();
        $table->string('asked_by', 200);
        $table->unsignedBigInteger('beat_us');
    }
};
