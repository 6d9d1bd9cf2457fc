<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

enum InverseKind: string
{
    case None = 'none';
    case Statements = 'statements';
    case Version = 'version';
    case Layout = 'layout';
}
