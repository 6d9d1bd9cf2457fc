<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use Illuminate\Contracts\Database\Eloquent\CastsAttributes;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\Crypt;

/**
 * Evidence as it is kept: sealed, a list of label, value and kind.
 *
 * @implements CastsAttributes<list<Evidence>, list<Evidence>>
 */
final readonly class EvidenceCast implements CastsAttributes
{
    public function get(Model $model, string $key, mixed $value, array $attributes): array
    {
        /** @var list<array{string, string, string}> $kept */
        $kept = is_string($value) ? json_decode(Crypt::decryptString($value), true, 8, JSON_THROW_ON_ERROR) : [];

        return array_map(static fn (array $one): Evidence => new Evidence($one[0], $one[1], EvidenceKind::from($one[2])), $kept);
    }

    public function set(Model $model, string $key, mixed $value, array $attributes): string
    {
        $rows = array_map(static fn (Evidence $one): array => [$one->label, $one->value, $one->kind->value], $value ?? []);

        return Crypt::encryptString(json_encode($rows, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE));
    }
}
