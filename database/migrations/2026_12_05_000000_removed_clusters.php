<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * A cluster that is removed leaves its name behind, for the changes and proofs that were made of it.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('clusters', static fn (Blueprint $table) => $table->softDeletes());
    }

    public function down(): void
    {
        DB::table('clusters')->whereNotNull('deleted_at')->delete();
        Schema::table('clusters', static fn (Blueprint $table) => $table->dropSoftDeletes());
    }
};
