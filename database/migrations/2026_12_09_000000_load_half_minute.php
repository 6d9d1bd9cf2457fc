<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // Of the last day of live servers only, so that it can be read finely and stays small.
        Schema::create('load_half_minute', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->unsignedInteger('bucket_at');
            $table->unsignedInteger('statement_id');
            $table->unsignedInteger('origin_id');
            foreach (['executions', 'duration_us', 'load_us', 'lock_us', 'queued_us', 'cpu_us'] as $sum) {
                $table->unsignedBigInteger($sum);
            }
            $table->primary(['cluster_id', 'bucket_at', 'statement_id', 'origin_id']);
            $table->index(['cluster_id', 'statement_id', 'bucket_at']);
        });
    }

    public function down(): void
    {
        Schema::drop('load_half_minute');
    }
};
