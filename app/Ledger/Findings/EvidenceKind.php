<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * What a piece of evidence is, by which pages, messages and files know how to show it and to whom.
 */
enum EvidenceKind: string
{
    case Fact = 'fact';

    /** The text of a statement without its values. */
    case Statement = 'statement';

    /** Quotes a statement with its values, which not everybody may see. */
    case Literal = 'literal';

    /** What would fix the finding. */
    case Remedy = 'remedy';
}
