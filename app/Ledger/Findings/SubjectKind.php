<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

enum SubjectKind: string
{
    /** A table, or something a policy speaks of. */
    case Item = '';
    case Statement = 'statement';
    case Job = 'job';
    case Account = 'user';
}
