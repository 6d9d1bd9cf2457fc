<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

/**
 * What a line of a bill is for (ChargeCategory of the FinOps Open Cost and Usage Specification, FOCUS 1.0).
 */
enum ChargeCategory: string
{
    case Usage = 'Usage';
    case Purchase = 'Purchase';
    case Tax = 'Tax';
    case Credit = 'Credit';
    case Adjustment = 'Adjustment';
}
