<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * Another one whenever more load of a cluster is written.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('clusters', static fn (Blueprint $table) => $table->char('load_stamp', 16)->nullable());
        DB::statement('UPDATE clusters SET load_stamp = LEFT(MD5(CONCAT(RAND(), id)), 16)');
    }

    public function down(): void
    {
        Schema::table('clusters', static fn (Blueprint $table) => $table->dropColumn('load_stamp'));
    }
};
