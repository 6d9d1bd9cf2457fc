<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * The part of a query in front of ORDER BY and LIMIT.
 */
abstract readonly class QueryBody extends Node
{
}
