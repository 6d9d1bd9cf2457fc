<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/**
 * What live servers do beyond what they count: by which plans their statements run, what applications ask too often, which definitions
 * were changed.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('plan_takes', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->char('statement', 32);
            $table->char('shape', 32)->nullable();
            $table->unsignedBigInteger('first_us');
            $table->unsignedBigInteger('last_us');
            $table->unsignedInteger('takes')->default(0);
            // Why the last one could not be taken.
            $table->string('problem', 300)->nullable();
            $table->primary(['cluster_id', 'statement']);
        });
        Schema::create('statement_patterns', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedInteger('bucket_at');
            $table->string('kind', 20);
            $table->char('parent', 32)->default('');
            $table->char('statement', 32);
            $table->unsignedBigInteger('rounds');
            $table->unsignedBigInteger('times');
            $table->unsignedBigInteger('duration_us');
            $table->unsignedBigInteger('interval_us');
            $table->primary(['cluster_id', 'bucket_at', 'kind', 'parent', 'statement']);
        });
        Schema::create('definition_changes', static function (Blueprint $table): void {
            $table->id();
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
            $table->unsignedBigInteger('at_us');
            $table->string('user', 130);
            $table->string('database_name', 130);
            // Without its values.
            $table->text('text');
            $table->index(['cluster_id', 'at_us']);
        });
    }

    public function down(): void
    {
        foreach (['definition_changes', 'statement_patterns', 'plan_takes'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
