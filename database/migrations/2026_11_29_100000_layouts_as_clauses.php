<?php

declare(strict_types=1);

use Fulcrion\Core\Sql\FormerSpelling;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;

/**
 * Statements that wait to be applied say how a table is laid out as it is said today.
 */
return new class extends Migration
{
    public function up(): void
    {
        foreach (['changes' => ['sealed_steps', 'sealed_inverse'], 'findings' => ['sealed_statements']] as $table => $columns) {
            foreach ($columns as $column) {
                foreach (DB::table($table)->whereNotNull($column)->orderBy('id')->select('id', $column)->lazy(200) as $row) {
                    $kept = json_decode(Crypt::decryptString($row->{$column}), true);
                    $now = self::said($kept);
                    if ($now !== $kept) {
                        DB::table($table)
                            ->where('id', $row->id)
                            ->update([$column => Crypt::encryptString((string) json_encode($now))]);
                    }
                }
            }
        }
    }

    private static function said(mixed $kept): mixed
    {
        return is_array($kept) ? array_map(self::said(...), $kept) : (is_string($kept) ? FormerSpelling::rewritten($kept) : $kept);
    }
};
