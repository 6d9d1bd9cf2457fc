<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

enum JoinKind: string
{
    case Inner = 'INNER';
    case Left = 'LEFT';
    case Right = 'RIGHT';
    case Full = 'FULL';
    case Cross = 'CROSS';
}
