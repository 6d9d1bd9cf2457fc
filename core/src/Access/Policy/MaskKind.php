<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * What a mask leaves of a value, from the least strict to the strictest: of two masks on one column the one further
 * down holds. Within a kind, fewer characters or a larger step is stricter.
 */
enum MaskKind: string
{
    case Whole = 'the whole value';
    case Rounded = 'rounded';
    case Year = 'year only';
    case EmailDomain = 'without the local part of an e-mail';
    case Last = 'last characters';
    case First = 'first characters';
    case Hash = 'keyed hash';
    case Expression = 'own expression';
    case Fixed = 'fixed text';
    case Nothing = 'nothing';

    public function rank(): int
    {
        return (int) array_search($this, self::cases(), true);
    }
}
