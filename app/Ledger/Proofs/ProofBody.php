<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Ledger\Models\ProofRecord;
use Closure;

/**
 * How a proof is shown that does not hold times of statements against each other.
 */
final readonly class ProofBody
{
    /**
     * @param  string  $name as it stands in the proof
     * @param  string  $view gets the measured lines
     * @param  Closure(ProofRecord): string  $results in words
     */
    public function __construct(public string $name, public string $view, public Closure $results)
    {
    }
}
