<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * The few points of lexical grammar on which engines disagree so that a lexer must choose.
 */
enum Dialect: string
{
    /** "x" is an identifier, a backslash in '...' is a plain character, -- always opens a comment. */
    case Ansi = 'ansi';

    /** "x" is a string, a backslash in '...' escapes, # opens a comment, -- only before white space. */
    case MariaDb = 'mariadb';
}
