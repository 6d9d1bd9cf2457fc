<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What servers count is kept among all metrics now; of before, two weeks at most are lost.
        Schema::drop('server_states');
    }

    public function down(): void
    {
        Schema::create('server_states', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->unsignedInteger('at');
            $table->binary('packed');
            $table->primary(['cluster_id', 'at']);
        });
    }
};
