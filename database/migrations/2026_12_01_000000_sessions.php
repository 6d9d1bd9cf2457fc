<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * Deadlocks of live servers, and the account that may stop their sessions.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('clusters', static function (Blueprint $table): void {
            $table->text('ender_username')->nullable()->after('secret');
            $table->text('ender_secret')->nullable()->after('ender_username');
        });
        Schema::create('deadlocks', static function (Blueprint $table): void {
            $table->id();
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            // A server tells of one again and again, until there is another.
            $table->char('digest', 32);
            $table->unsignedBigInteger('seen_us');
            $table->string('server_time', 40);
            $table->json('sides');
            $table->unique(['cluster_id', 'digest']);
            $table->index(['cluster_id', 'seen_us']);
        });
    }

    public function down(): void
    {
        Schema::dropIfExists('deadlocks');
        Schema::table('clusters', static fn (Blueprint $table) => $table->dropColumn(['ender_username', 'ender_secret']));
    }
};
