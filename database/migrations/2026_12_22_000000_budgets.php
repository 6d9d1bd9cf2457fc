<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What somebody plans to spend on a team, a cluster or all of it; the latest of the same holds.
        Schema::create('budgets', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('of', 10);
            $table->string('name', 120)->default('');
            $table->string('period', 10);
            $table->decimal('amount', 24, 4);
            $table->char('currency', 3);
            $table->unsignedInteger('from_at');
            $table->string('made_by', 200);
            $table->unsignedBigInteger('made_us');
            $table->index(['of', 'name', 'from_at']);
        });
        // Whether sizes are those of a modelled cluster.
        Schema::table('stored_tables', static function (Blueprint $table): void {
            $table->boolean('is_modelled')->default(false);
        });
    }

    public function down(): void
    {
        Schema::table('stored_tables', static function (Blueprint $table): void {
            $table->dropColumn('is_modelled');
        });
        Schema::drop('budgets');
    }
};
