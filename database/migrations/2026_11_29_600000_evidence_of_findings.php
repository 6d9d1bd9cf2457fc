<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;

/**
 * Evidence says what it is instead of being known by its label.
 */
return new class extends Migration
{
    private const KINDS = [
        'filter' => 'literal',
        'said as a span' => 'literal',
        'would fix it' => 'remedy',
    ];

    public function up(): void
    {
        foreach (DB::table('findings')->orderBy('id')->select('id', 'source', 'evidence')->lazy(200) as $finding) {
            $evidence = json_decode(Crypt::decryptString($finding->evidence), true);
            foreach ($evidence as $i => $one) {
                $kind = $finding->source === 'statements' && $one[0] === 'what' ? 'statement' : self::KINDS[$one[0]] ?? 'fact';
                $evidence[$i] = [$one[0], $one[1], $one[2] ?? $kind];
            }
            DB::table('findings')
                ->where('id', $finding->id)
                ->update(['evidence' => Crypt::encryptString((string) json_encode($evidence, JSON_INVALID_UTF8_SUBSTITUTE))]);
        }
    }
};
