<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

enum TokenKind: string
{
    case Space = 's';
    case Comment = 'c';
    /** A comment an engine reads: an optimiser hint or version-gated text. */
    case Hint = 'h';
    case Keyword = 'k';
    case Word = 'w';
    case QuotedName = 'q';
    case Text = 't';
    case Number = 'n';
    case Parameter = 'p';
    case Ellipsis = 'e';
    case Operator = 'o';
}
