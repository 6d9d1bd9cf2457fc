<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * How a change is undone is said by a column of its own instead of by what stands among its statements.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('changes', static fn (Blueprint $table) => $table->string('inverse', 12)->default('none'));
        DB::table('changes')
            ->where('kind', 'prepare')
            ->update(['kind' => 'rollups']);
        foreach (DB::table('changes')->orderBy('id')->select('id', 'kind', 'sealed_inverse')->lazy(200) as $change) {
            $kept = (array) json_decode(Crypt::decryptString($change->sealed_inverse), true);
            $inverse = match (true) {
                $change->kind === 'rebuild' => 'layout',
                $kept === ['revert'] => 'version',
                $kept === [] => 'none',
                default => 'statements',
            };
            DB::table('changes')
                ->where('id', $change->id)
                ->update(
                    ['inverse' => $inverse] +
                        (in_array($kept, [['revert'], ['']], true) ? ['sealed_inverse' => Crypt::encryptString('[]')] : []),
                );
        }
    }
};
