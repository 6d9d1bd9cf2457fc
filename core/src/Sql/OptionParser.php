<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\TableOption;
use Fulcrion\Core\Sql\Ast\Tuple;

/**
 * Reads the options behind WITH.
 *
 * @internal
 */
final readonly class OptionParser
{
    /**
     * @return list<TableOption>
     *
     * @throws SyntaxError
     */
    public static function read(Cursor $c, QueryParser $queries): array
    {
        $options = [];
        $c->expect('(', 'of WITH');
        do {
            $at = $c->at();
            $name = strtolower($c->partName('an option'));
            $c->expect('=', "of the option {$name}");
            $value = $queries->expressions->expression();
            $options[] = new TableOption($at, $name, $value instanceof Tuple ? $value->items : [$value]);
        } while ($c->take(','));
        $c->expect(')', 'behind the options');

        return $options;
    }
}
