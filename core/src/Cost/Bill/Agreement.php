<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

/**
 * How what was billed stands to what was computed.
 */
enum Agreement: string
{
    case Agrees = 'agrees';
    case OtherPrice = 'other_price';
    case OtherQuantity = 'other_quantity';
    case OnlyBilled = 'only_billed';
    case OnlyComputed = 'only_computed';

    public function label(): string
    {
        return match ($this) {
            self::Agrees => 'agrees',
            self::OtherPrice => 'priced differently',
            self::OtherQuantity => 'another quantity',
            self::OnlyBilled => 'billed, but not in use',
            self::OnlyComputed => 'in use, but not billed',
        };
    }
}
