<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('changes', static function (Blueprint $table): void {
            // Null: on the cluster that is to be changed.
            $table->unsignedSmallInteger('rehearse_on_id')->nullable();
            $table->foreign('rehearse_on_id')->references('id')->on('clusters');
        });
        Schema::table('proofs', static function (Blueprint $table): void {
            $table->json('unmeasured')->nullable();
            $table->json('costs')->nullable();
        });
    }

    public function down(): void
    {
        Schema::table('proofs', static function (Blueprint $table): void {
            $table->dropColumn(['unmeasured', 'costs']);
        });
        Schema::table('changes', static function (Blueprint $table): void {
            $table->dropForeign(['rehearse_on_id']);
            $table->dropColumn('rehearse_on_id');
        });
    }
};
