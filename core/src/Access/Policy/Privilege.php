<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * What can be granted. To read a column takes "select" on it and "use" of its schema, each given there or above.
 */
enum Privilege: string
{
    case Use = 'use';
    case Select = 'select';
    case Insert = 'insert';
    case Update = 'update';
    case Delete = 'delete';
    case Create = 'create';
    case Alter = 'alter';
    case Drop = 'drop';
    case Label = 'label';
    case Manage = 'manage access';

    public function bit(): int
    {
        return 1 << (int) array_search($this, self::cases(), true);
    }

    /**
     * @param  list<string>  $names
     */
    public static function bits(array $names): int
    {
        $bits = 0;
        foreach ($names as $name) {
            $bits |= self::tryFrom($name)?->bit() ?? 0;
        }

        return $bits;
    }

    /**
     * @return list<string>
     */
    public static function names(int $bits): array
    {
        $names = [];
        foreach (self::cases() as $case) {
            if (($bits & $case->bit()) !== 0) {
                $names[] = $case->value;
            }
        }

        return $names;
    }
}
