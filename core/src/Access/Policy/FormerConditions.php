<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

use Fulcrion\Core\Sql\Cursor;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Lexer;

/**
 * How conditions asked for labels before version 0.5. They are refused with the name of today; what was kept is rewritten once.
 */
final readonly class FormerConditions
{
    public const NAMES = [
        'has_label' => 'labelled',
        'has_below' => 'labelled_below',
        'table_has' => 'table_labelled',
        'table_has_below' => 'table_labelled_below',
        'any_column' => 'column_labelled_below',
    ];

    /** A condition as it is written today, with the same truth for every object. */
    public static function rewritten(string $condition): string
    {
        $c = new Cursor($condition, new Lexer(Dialect::Ansi));
        $made = '';
        $done = 0;
        for ($i = 0; $c->kinds[$i] !== 'z'; $i++) {
            $name = self::NAMES[strtolower($c->words[$i])] ?? null;
            if ($name === null || $c->words[$i + 1] !== '(') {
                continue;
            }
            $made .= substr($condition, $done, $c->offsets[$i] - $done);
            $done = $c->offsets[$i] + strlen($c->texts[$i]);
            // A value was the second text: the key has to be there first, so that NOT means the same.
            if ($name === 'labelled' && $c->words[$i + 3] === ',' && $c->words[$i + 5] === ')') {
                $made .= "(labelled({$c->texts[$i + 2]}) AND label({$c->texts[$i + 2]}) = {$c->texts[$i + 4]})";
                $i += 5;
                $done = $c->offsets[$i] + 1;
            } else {
                $made .= $name;
            }
        }

        return $made.substr($condition, $done);
    }
}
