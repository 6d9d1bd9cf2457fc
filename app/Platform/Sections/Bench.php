<?php

declare(strict_types=1);

namespace App\Platform\Sections;

/**
 * The entries of the navigation, in the order people see them. Code is cut by capability; a bench gathers the pages of several.
 */
enum Bench: string
{
    case Round = 'round';
    case Tune = 'tune';
    case Guard = 'guard';
    case Meter = 'meter';
    case Tend = 'tend';
    case Ledger = 'ledger';

    public function label(): string
    {
        return ucfirst($this->value);
    }

    /** The key that opens it, pressed outside of input fields. */
    public function key(): string
    {
        return match ($this) {
            self::Round => 'r',
            self::Tune => 't',
            self::Guard => 'g',
            self::Meter => 'm',
            self::Tend => 'n',
            self::Ledger => 'l',
        };
    }

    /**
     * Headings its pages stand under, in their order.
     *
     * @return list<string>
     */
    public function groups(): array
    {
        return match ($this) {
            self::Tune => ['Watch', 'Understand', 'Improve'],
            self::Tend => ['', 'Watch', 'Machines', 'Alerts', 'Sources'],
            default => [''],
        };
    }
}
