<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * All columns, of one relation or of all.
 */
final readonly class Star extends Expression
{
    /**
     * @param  list<string>  $qualifier
     */
    public function __construct(int $at, public array $qualifier)
    {
        parent::__construct($at);
    }
}
