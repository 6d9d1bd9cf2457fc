<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Viewers that stand here are told of these teams only; all others of all.
        Schema::create('usage_limits', static function (Blueprint $table): void {
            $table->foreignId('user_id')->primary()->constrained('users')->cascadeOnDelete();
            $table->json('teams');
        });
    }

    public function down(): void
    {
        Schema::drop('usage_limits');
    }
};
