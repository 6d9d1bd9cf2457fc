<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('cost_prices', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedSmallInteger('cluster_id');
            $table->string('kind', 30);
            $table->string('name', 120)->default('');
            $table->decimal('amount', 24, 10);
            $table->decimal('quantity', 24, 10)->default(1);
            $table->decimal('above', 24, 10)->default(0);
            $table->unsignedInteger('from_at');
            $table->boolean('is_reserved')->default(false);
            $table->string('made_by', 200);
            $table->unsignedBigInteger('made_us');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
        Schema::create('cost_rules', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id')->primary();
            $table->char('currency', 3);
            $table->string('follows', 30);
            $table->string('idle', 30);
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('cost_rules');
        Schema::drop('cost_prices');
    }
};
