<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('cost_bills', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('file_name', 200);
            $table->char('digest', 64)->unique();
            $table->char('currency', 3);
            // How many of the currency of the price books one of the bill is.
            $table->decimal('rate', 24, 12)->nullable();
            $table->date('rate_on')->nullable();
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at');
            $table->unsignedInteger('line_count');
            $table->string('read_by', 200);
            $table->unsignedBigInteger('read_us');
        });
        Schema::create('cost_bill_lines', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('bill_id');
            $table->string('account', 200);
            $table->string('resource', 200);
            $table->string('category', 20);
            $table->string('kind', 30)->nullable();
            $table->unsignedInteger('from_at');
            $table->unsignedInteger('to_at');
            $table->decimal('amount', 30, 12);
            $table->decimal('quantity', 30, 12)->nullable();
            $table->string('description', 200);
            $table->foreign('bill_id')->references('id')->on('cost_bills')->cascadeOnDelete();
        });
        Schema::create('cost_resources', static function (Blueprint $table): void {
            $table->string('resource', 200)->collation('utf8mb4_bin')->primary();
            $table->unsignedSmallInteger('cluster_id');
            $table->foreign('cluster_id')->references('id')->on('clusters')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('cost_resources');
        Schema::drop('cost_bill_lines');
        Schema::drop('cost_bills');
    }
};
