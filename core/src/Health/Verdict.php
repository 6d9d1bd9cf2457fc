<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * Why it was slow.
 */
enum Verdict: string
{
    case System = 'system';
    case Host = 'host';
    case Statement = 'statement';
    case Queue = 'queue';
    case Lock = 'lock';
    case Nothing = 'nothing';
    case Unknown = 'unknown';
}
