<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * REFRESH ROLLUP or REFRESH LOOKUP: brings a rollup or lookup up to its tables.
 */
final readonly class Refresh extends Statement
{
    /**
     * @param  CreateRollup::ROLLUP|CreateRollup::LOOKUP  $kind
     * @param  list<string>  $name
     */
    public function __construct(int $at, public string $kind, public array $name)
    {
        parent::__construct($at);
    }
}
