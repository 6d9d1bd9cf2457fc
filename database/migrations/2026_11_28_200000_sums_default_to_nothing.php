<?php

declare(strict_types=1);

use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\WindowCover;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/**
 * Writers name only the sums that are something.
 */
return new class extends Migration
{
    public function up(): void
    {
        foreach (array_keys(WindowCover::LEVELS) as $level) {
            DB::statement(
                "ALTER TABLE load_{$level} ".
                    implode(', ', array_map(static fn (string $name): string => "ALTER COLUMN {$name} SET DEFAULT 0", LoadAggregate::SUMS)),
            );
        }
    }

    public function down(): void
    {
        foreach (array_keys(WindowCover::LEVELS) as $level) {
            DB::statement(
                "ALTER TABLE load_{$level} ".
                    implode(', ', array_map(static fn (string $name): string => "ALTER COLUMN {$name} DROP DEFAULT", LoadAggregate::SUMS)),
            );
        }
    }
};
