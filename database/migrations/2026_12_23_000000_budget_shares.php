<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // At which percentages somebody wants to know, and who is written to.
        Schema::table('budgets', static function (Blueprint $table): void {
            $table->string('shares', 40)->default('80,100');
            $table->string('recipient', 190)->nullable();
        });
        // What was said already: once for each share and period.
        Schema::create('budget_notes', static function (Blueprint $table): void {
            $table->unsignedInteger('budget_id');
            $table->unsignedInteger('from_at');
            $table->unsignedSmallInteger('share');
            $table->unsignedBigInteger('made_us');
            $table->primary(['budget_id', 'from_at', 'share']);
            $table->foreign('budget_id')->references('id')->on('budgets')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('budget_notes');
        Schema::table('budgets', static function (Blueprint $table): void {
            $table->dropColumn(['shares', 'recipient']);
        });
    }
};
