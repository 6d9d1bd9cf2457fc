<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Those that are known have none: nobody wrote it down.
        Schema::table('origins', static function (Blueprint $table): void {
            $table->string('queue_name', 190)->default('');
        });
    }

    public function down(): void
    {
        Schema::table('origins', static function (Blueprint $table): void {
            $table->dropColumn('queue_name');
        });
    }
};
