<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * One thing that speaks for a finding.
 */
final readonly class Evidence
{
    public function __construct(public string $label, public string $value, public EvidenceKind $kind = EvidenceKind::Fact)
    {
    }

    /** What would fix it. */
    public static function remedy(string $text): self
    {
        return new self('what would help', $text, EvidenceKind::Remedy);
    }

    /**
     * @param  list<self>  $all
     * @return list<string> values of those of a kind
     */
    public static function values(array $all, EvidenceKind $kind): array
    {
        return array_column(array_filter($all, static fn (self $one): bool => $one->kind === $kind), 'value');
    }
}
