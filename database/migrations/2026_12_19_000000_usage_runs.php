<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('usage_runs', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at');
            $table->string('state', 10);
            $table->string('progress', 300)->default('');
            $table->double('done_share')->default(0);
            $table->boolean('stop_asked')->default(false);
            $table->string('error', 400)->nullable();
            $table->unsignedBigInteger('asked_us');
            $table->string('asked_by', 120);
            $table->unsignedBigInteger('heartbeat_us');
            $table->text('result')->nullable();
        });
    }

    public function down(): void
    {
        Schema::drop('usage_runs');
    }
};
