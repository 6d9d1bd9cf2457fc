<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What accrues with each day a cluster is in use, and is used up first.
        Schema::create('allowances', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('measure', 12);
            $table->decimal('per_day', 20, 6);
            $table->decimal('cap', 20, 6);
            $table->decimal('start', 20, 6);
            $table->unsignedInteger('from_at');
            $table->decimal('price', 20, 6)->nullable();
            $table->char('currency', 3);
            $table->string('made_by', 190);
            $table->unsignedBigInteger('made_us');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('allowances');
    }
};
