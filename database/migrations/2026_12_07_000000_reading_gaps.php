<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * When live servers were not read: what ran then is not known, which is something else than nothing.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('reading_gaps', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at');
            $table->primary(['cluster_id', 'from_at']);
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('reading_gaps');
    }
};
