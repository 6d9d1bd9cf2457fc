<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Analyze;
use Fulcrion\Core\Sql\Ast\ColumnDefinition;
use Fulcrion\Core\Sql\Ast\Copy;
use Fulcrion\Core\Sql\Ast\CreateRollup;
use Fulcrion\Core\Sql\Ast\CreateSchema;
use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\Ast\CreateView;
use Fulcrion\Core\Sql\Ast\Delete;
use Fulcrion\Core\Sql\Ast\Drop;
use Fulcrion\Core\Sql\Ast\Explain;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Insert;
use Fulcrion\Core\Sql\Ast\Maintain;
use Fulcrion\Core\Sql\Ast\Privileges;
use Fulcrion\Core\Sql\Ast\Refresh;
use Fulcrion\Core\Sql\Ast\Rename;
use Fulcrion\Core\Sql\Ast\Statement;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\Update;

/**
 * From SQL to syntax trees. What it accepts is wider than what any one engine runs.
 */
final readonly class Parser
{
    private Lexer $lexer;

    public function __construct(Dialect $dialect = Dialect::Ansi)
    {
        $this->lexer = new Lexer($dialect);
    }

    /**
     * @throws SyntaxError
     */
    public function statement(string $sql): Statement
    {
        $c = new Cursor($sql, $this->lexer);
        $statement = $this->one($c);
        while ($c->take(';')) {
        }
        if ($c->kinds[$c->i] !== 'z') {
            throw $c->expected('the end of the statement');
        }

        return $statement;
    }

    /**
     * @return list<Statement>
     *
     * @throws SyntaxError
     */
    public function statements(string $sql): array
    {
        $c = new Cursor($sql, $this->lexer);
        $statements = [];
        while (true) {
            while ($c->take(';')) {
            }
            if ($c->kinds[$c->i] === 'z') {
                return $statements;
            }
            $statements[] = $this->one($c);
            if ($c->kinds[$c->i] !== 'z' && ! $c->is(';')) {
                throw $c->expected('";" or the end of the statement');
            }
        }
    }

    /**
     * @throws SyntaxError
     */
    public function expression(string $sql): Expression
    {
        $c = new Cursor($sql, $this->lexer);
        $expression = (new QueryParser($c))->expressions->expression();
        if ($c->kinds[$c->i] !== 'z') {
            throw $c->expected('the end of the expression');
        }

        return $expression;
    }

    /**
     * Where each statement of a script begins and ends, without reading them; works on broken ones too.
     *
     * @return list<array{int, int}> offset of the first byte, offset behind the last
     */
    public function split(string $sql): array
    {
        $c = new Cursor($sql, $this->lexer);
        $spans = [];
        $start = null;
        foreach ($c->words as $i => $word) {
            if ($word === ';' || $c->kinds[$i] === 'z') {
                if ($start !== null) {
                    $spans[] = [$start, $c->offsets[$i - 1] + strlen($c->texts[$i - 1])];
                }
                $start = null;
            } else {
                $start ??= $c->offsets[$i];
            }
        }

        return $spans;
    }

    /**
     * @throws SyntaxError
     */
    private function one(Cursor $c): Statement
    {
        $queries = new QueryParser($c);
        $at = $c->at();
        if ($queries->beginsQuery($c->i)) {
            return $queries->query();
        }
        $word = $c->words[$c->i];
        $c->i++;
        switch ($word) {
            case 'EXPLAIN':
                $run = $c->take('ANALYZE');

                return new Explain($at, $run, $this->one($c));
            case 'CREATE':
                return $this->create($c, $queries, $at);
            case 'INSERT':
                $c->expect('INTO');
                $table = $c->path('a table');
                $columns = $c->is('(') && ! $queries->beginsQuery($c->i + 1) ? $c->namesInBrackets('a column') : [];

                return new Insert($at, $table, $columns, $queries->query());
            case 'COPY':
                return $this->copy($c, $queries, $at);
            case 'UPDATE':
                return $this->update($c, $queries, $at);
            case 'DELETE':
                return $this->delete($c, $queries, $at);
            case 'DROP':
                $kind = $this->kind($c, ['TABLE', 'VIEW', 'SCHEMA', CreateRollup::ROLLUP, CreateRollup::LOOKUP]);
                $ifThere = $c->follows('IF', 'EXISTS');
                $c->i += $ifThere ? 2 : 0;

                return new Drop($at, $kind, $c->path('a name'), $ifThere);
            case 'RENAME':
                return $this->rename($c, $at);
            case 'MAINTAIN':
                $c->expect('TABLE', 'behind MAINTAIN');
                $table = $c->path('a table');
                $c->expect('WITH', 'of MAINTAIN TABLE');

                return new Maintain($at, $table, OptionParser::read($c, $queries));
            case 'REFRESH':
                return new Refresh($at, $this->kind($c, [CreateRollup::ROLLUP, CreateRollup::LOOKUP]), $c->path('a name'));
            case 'ALTER':
                $c->expect('TABLE', 'behind ALTER');
                $table = $c->path('a table');
                $c->expect('RENAME', '(no other change of a table can be read)');
                $c->expect('TO');

                return new Rename($at, [[$table, $c->name('a name')]]);
            case 'ANALYZE':
                $c->take('TABLE');
                $table = $c->path('a table');

                return new Analyze($at, $table, $c->is('(') ? $c->namesInBrackets('a column') : []);
            case 'GRANT':
            case 'REVOKE':
                return $this->privileges($c, $at, $word === 'GRANT');
        }
        $c->i--;
        throw $c->expected('a statement (SELECT, WITH, INSERT, UPDATE, DELETE, CREATE, DROP, ...)');
    }

    /** @throws SyntaxError */
    private function update(Cursor $c, QueryParser $queries, int $at): Update
    {
        $table = $c->path('a table');
        $alias = $c->is('SET') ? null : ($c->take('AS') ? $c->name('an alias') : $c->name('an alias or SET'));
        $c->expect('SET', 'of UPDATE');
        $assignments = [];
        do {
            $column = $c->path('a column');
            $c->expect('=', 'of SET');
            $assignments[] = [$column[count($column) - 1], $queries->expressions->expression()];
        } while ($c->take(','));

        return new Update($at, $table, $alias, $assignments, $c->take('WHERE') ? $queries->expressions->expression() : null);
    }

    /** @throws SyntaxError */
    private function delete(Cursor $c, QueryParser $queries, int $at): Delete
    {
        $c->expect('FROM', 'of DELETE');
        $table = $c->path('a table');
        $alias = match (true) {
            $c->is('WHERE'), $c->is(';'), $c->kinds[$c->i] === 'z' => null,
            $c->take('AS') => $c->name('an alias'),
            default => $c->name('an alias or WHERE'),
        };

        return new Delete($at, $table, $alias, $c->take('WHERE') ? $queries->expressions->expression() : null);
    }

    /** @throws SyntaxError */
    private function rename(Cursor $c, int $at): Rename
    {
        $c->expect('TABLE', 'behind RENAME');
        $pairs = [];
        do {
            $table = $c->path('a table');
            $c->expect('TO');
            $pairs[] = [$table, $c->name('a name')];
        } while ($c->take(','));

        return new Rename($at, $pairs);
    }

    /**
     * @template T of string
     *
     * @param  list<T>  $kinds
     * @return T
     *
     * @throws SyntaxError
     */
    private function kind(Cursor $c, array $kinds): string
    {
        $word = $c->words[$c->i];
        if (! in_array($word, $kinds, true)) {
            throw $c->expected(implode(', ', array_slice($kinds, 0, -1)).' or '.$kinds[count($kinds) - 1]);
        }
        $c->i++;

        return $word;
    }

    /**
     * @throws SyntaxError
     */
    private function create(Cursor $c, QueryParser $queries, int $at): Statement
    {
        $orReplace = $c->follows('OR', 'REPLACE');
        $c->i += $orReplace ? 2 : 0;
        $kind = $this->kind($c, ['TABLE', 'VIEW', 'SCHEMA', CreateRollup::ROLLUP, CreateRollup::LOOKUP]);
        $unlessThere = $c->is('IF') && $c->words[$c->i + 1] === 'NOT' && $c->words[$c->i + 2] === 'EXISTS';
        $c->i += $unlessThere ? 3 : 0;
        if ($kind === 'SCHEMA') {
            return new CreateSchema($at, $c->name('a schema'), $unlessThere);
        }
        $name = $c->path('a name');
        if ($kind === 'VIEW') {
            $columns = $c->is('(') ? $c->namesInBrackets('a column') : [];
            $c->expect('AS', 'of CREATE VIEW');

            return new CreateView($at, $name, $columns, $queries->query(), $orReplace);
        }
        if ($kind === CreateRollup::ROLLUP || $kind === CreateRollup::LOOKUP) {
            $options = $c->take('WITH') ? OptionParser::read($c, $queries) : [];
            $c->expect('AS', "of CREATE {$kind}");

            return new CreateRollup($at, $kind, $name, $options, $queries->query(), $orReplace);
        }
        $columns = [];
        if ($c->is('(') && ! $queries->beginsQuery($c->i + 1)) {
            $c->i++;
            do {
                $columnAt = $c->at();
                $column = $c->name('a column');
                $type = $queries->expressions->type();
                $notNull = $c->follows('NOT', 'NULL');
                $c->i += $notNull ? 2 : 0;
                if (! $notNull) {
                    $c->take('NULL');
                }
                $columns[] = new ColumnDefinition($columnAt, $column, $type, $notNull);
            } while ($c->take(','));
            $c->expect(')', 'behind the columns');
        }
        $layout = LayoutParser::read($c);
        if ($c->is('WITH')) {
            $at = $c->at();
            $c->i++;
            throw $c->refuse(
                'a table is laid out by clauses; instead of WITH (...) write '.FormerSpelling::clauses(OptionParser::read($c, $queries)),
                $at,
            );
        }
        $source = $c->take('AS') ? $queries->query() : null;
        if ($source === null && $columns === []) {
            throw $c->expected('columns or AS', 'of CREATE TABLE');
        }

        return new CreateTable($at, $name, $columns, $layout, $source, $orReplace, $unlessThere);
    }

    /**
     * @throws SyntaxError
     */
    private function copy(Cursor $c, QueryParser $queries, int $at): Copy
    {
        $table = $c->path('a table');
        $columns = $c->is('(') ? $c->namesInBrackets('a column') : [];
        $c->expect('FROM', 'of COPY');
        if ($c->kinds[$c->i] !== 't') {
            throw $c->expected('the path of a file in single quotes');
        }
        $path = new TextLiteral($c->at(), $c->text('a path'));

        return new Copy($at, $table, $columns, $path->value, $c->take('WITH') ? OptionParser::read($c, $queries) : []);
    }

    /**
     * @throws SyntaxError
     */
    private function privileges(Cursor $c, int $at, bool $grants): Privileges
    {
        $privileges = [];
        do {
            $word = $c->words[$c->i];
            if ($c->kinds[$c->i] !== 'w' && $c->kinds[$c->i] !== 'q') {
                throw $c->expected('a privilege or a role');
            }
            $c->i++;
            if ($word === 'ALL') {
                $c->take('PRIVILEGES');
            }
            $privileges[] = $word === '' ? $c->texts[$c->i - 1] : $word;
        } while ($c->take(','));
        $kind = null;
        $object = [];
        if ($c->take('ON')) {
            foreach (['TABLE', 'SCHEMA', 'VIEW', 'DATABASE'] as $candidate) {
                if ($kind === null && $c->take($candidate)) {
                    $kind = $candidate;
                }
            }
            $object = $c->path('an object');
        }
        $c->expect($grants ? 'TO' : 'FROM', $grants ? 'of GRANT' : 'of REVOKE');
        $grantees = [];
        do {
            $c->take('ROLE') || $c->take('USER');
            $grantees[] = $c->name('a role or user');
        } while ($c->take(','));
        $withOption = $c->follows('WITH', 'GRANT') || $c->follows('WITH', 'ADMIN');
        if ($withOption) {
            $c->i += 2;
            $c->expect('OPTION');
        }

        return new Privileges($at, $grants, $privileges, $kind, $object, $grantees, $withOption);
    }
}
