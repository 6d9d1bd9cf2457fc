<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * What stands behind FROM: a table, a derived table or a join.
 */
abstract readonly class Relation extends Node
{
}
