<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A whole statement.
 */
abstract readonly class Statement extends Node
{
}
