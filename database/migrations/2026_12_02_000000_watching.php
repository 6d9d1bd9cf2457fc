<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * What watching live servers costs them, by hour.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('watching', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedInteger('hour_at');
            $table->unsignedBigInteger('executions');
            $table->unsignedBigInteger('duration_us');
            $table->unsignedBigInteger('others_us');
            $table->primary(['cluster_id', 'hour_at']);
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('watching');
    }
};
