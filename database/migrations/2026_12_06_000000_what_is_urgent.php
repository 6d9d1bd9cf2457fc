<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * Findings of what goes wrong at this moment come before those that weigh more.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('findings', static fn (Blueprint $table) => $table->boolean('urgent')->default(false)->after('severity'));
    }

    public function down(): void
    {
        Schema::table('findings', static fn (Blueprint $table) => $table->dropColumn('urgent'));
    }
};
