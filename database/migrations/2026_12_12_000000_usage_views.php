<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('usage_views', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('name', 120);
            $table->text('query');
            $table->foreignId('user_id')->constrained('users')->cascadeOnDelete();
            $table->unsignedBigInteger('made_us');
        });
    }

    public function down(): void
    {
        Schema::drop('usage_views');
    }
};
