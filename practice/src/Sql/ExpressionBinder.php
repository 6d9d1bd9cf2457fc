<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\SortTerm;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Expression\WindowCall;
use Fulcrion\Practice\WarehouseError;
use InvalidArgumentException;

/**
 * Expressions of the syntax tree to bound ones.
 */
final readonly class ExpressionBinder
{
    private const RANKINGS = ['row_number' => 0, 'rank' => 0, 'dense_rank' => 0];

    private const COMPARISONS = ['=' => 'eq', '<>' => 'ne', '<' => 'lt', '<=' => 'le', '>' => 'gt', '>=' => 'ge'];

    private const ARITHMETIC = ['+' => 'add', '-' => 'sub', '*' => 'mul', '/' => 'div', '%' => 'mod', 'DIV' => 'intdiv'];

    /**
     * @param  array<string, Ast\Over>  $windows named in the WINDOW clause
     */
    public function __construct(
        private QueryBinder $queries,
        private BindingScope $scope,
        private ?Gathering $gathering = null,
        private array $windows = [],
    ) {
    }

    public function bind(Ast\Expression $e): Expr
    {
        $boolean = ColumnType::of(TypeKind::Boolean);

        return match (true) {
            $e instanceof Ast\ColumnName => $this->scope->find($e->parts, $e->at)->ref(),
            $e instanceof Ast\NumberLiteral => $this->number($e),
            $e instanceof Ast\TextLiteral => new Constant($e->value, ColumnType::of(TypeKind::Text)),
            $e instanceof Ast\BooleanLiteral => new Constant($e->value, $boolean),
            $e instanceof Ast\NullLiteral => new Constant(null, ColumnType::of(TypeKind::Text)),
            $e instanceof Ast\TimeLiteral => $this->located(
                $e->at,
                static fn (): Expr => Coercion::to(
                    new Constant($e->text, ColumnType::of(TypeKind::Text)),
                    ColumnType::of($e->withTime ? TypeKind::Timestamp : TypeKind::Date),
                ),
            ),
            $e instanceof Ast\Unary => $this->unary($e),
            $e instanceof Ast\Binary => $this->binary($e),
            $e instanceof Ast\Between => $this->negate($this->between($e), $e->negated),
            $e instanceof Ast\InList => $this->negate($this->inList($e), $e->negated),
            $e instanceof Ast\InQuery => $this->negate($this->inQuery($e), $e->negated),
            $e instanceof Ast\Like => $this->negate($this->like($e), $e->negated),
            $e instanceof Ast\IsTest => $this->negate($this->test($e), $e->negated),
            $e instanceof Ast\DistinctTest => $this->negate($this->distinct($e), ! $e->negated),
            $e instanceof Ast\CaseOf => $this->caseOf($e),
            $e instanceof Ast\Cast => $this->cast($e),
            $e instanceof Ast\Extract => FunctionLibrary::extract($e->unit, $this->bind($e->value), $e->at),
            $e instanceof Ast\Call => $this->call($e),
            $e instanceof Ast\Exists => SubqueryExpr::boolean(SubqueryExpr::EXISTS, $this->queries->query($e->query, $this->scope)),
            $e instanceof Ast\ScalarQuery => $this->scalar($e),
            $e instanceof Ast\Quantified => $this->quantified($e),
            $e instanceof Ast\Parameter => throw new WarehouseError("The parameter {$e->text} has no value; put one in its place.", $e->at),
            $e instanceof Ast\Star => throw new WarehouseError('* can only stand alone in SELECT or inside count(*).', $e->at),
            $e instanceof Ast\Tuple => throw new WarehouseError('A list in brackets can only stand on the left of = or IN.', $e->at),
            $e instanceof Ast\IntervalLiteral => throw new WarehouseError(
                'An INTERVAL can only be added to or taken from a date or timestamp.',
                $e->at,
            ),
            default => throw new WarehouseError('This expression cannot be run.', $e->at),
        };
    }

    public function condition(Ast\Expression $e): Expr
    {
        $bound = $this->bind($e);
        if (! $bound->type->is(TypeKind::Boolean)) {
            if ($bound->type->isNumber()) {
                return Coercion::op('cast', [$bound], ColumnType::of(TypeKind::Boolean), $bound->nullable);
            }
            if ($bound instanceof Constant && $bound->value === null) {
                return new Constant(null, ColumnType::of(TypeKind::Boolean));
            }
            throw new WarehouseError("A condition is needed here, not {$bound->type}.", $e->at);
        }

        return $bound;
    }

    /**
     * @param  list<Ast\SortKey>  $keys
     * @return list<SortTerm>
     */
    public function sortTerms(array $keys): array
    {
        return array_map(
            fn (Ast\SortKey $key): SortTerm => new SortTerm(
                $this->bind($key->value),
                $key->descending,
                $key->nullsFirst ?? ! $key->descending,
            ),
            $keys,
        );
    }

    private function number(Ast\NumberLiteral $e): Expr
    {
        $digits = ltrim($e->text, '0');
        if (ctype_digit($e->text) && ($digits === '' || (string) (int) $digits === $digits)) {
            return Constant::whole((int) $digits);
        }
        if (preg_match('~^\d*\.?\d*$~', $e->text) === 1) {
            $scale = strlen(substr((string) strrchr($e->text, '.'), 1));
            if ($scale <= 12 && strlen(ltrim(str_replace('.', '', $e->text), '0')) <= 18) {
                $type = ColumnType::decimal(ColumnType::MOST_DIGITS, $scale);

                return Coercion::to(new Constant($e->text, ColumnType::of(TypeKind::Text)), $type);
            }
        }
        if (! is_numeric($e->text)) {
            throw new WarehouseError("{$e->text} is written in a way that cannot be run.", $e->at);
        }

        $value = (float) $e->text;

        return is_finite($value)
            ? new Constant($value, ColumnType::of(TypeKind::Double))
            : throw new WarehouseError('This number is beyond what a double holds.', $e->at);
    }

    private function unary(Ast\Unary $e): Expr
    {
        if ($e->operator === 'NOT') {
            return $this->negate($this->condition($e->operand), true);
        }
        if (
            $e->operator === '-' &&
            $e->operand instanceof Ast\NumberLiteral &&
            ltrim($e->operand->text, '0') === substr((string) PHP_INT_MIN, 1)
        ) {
            return Constant::whole(PHP_INT_MIN);
        }
        $operand = $this->bind($e->operand);
        FunctionLibrary::number($operand, $e->operator, $e->at);

        return $e->operator === '-' ? Coercion::op('neg', [$operand], $operand->type, $operand->nullable) : $operand;
    }

    private function binary(Ast\Binary $e): Expr
    {
        $boolean = ColumnType::of(TypeKind::Boolean);
        if ($e->operator === 'AND' || $e->operator === 'OR') {
            $parts = [];
            $name = strtolower($e->operator);
            foreach ([$e->left, $e->right] as $side) {
                $part = $this->condition($side);
                $parts = [...$parts, ...$part instanceof \Fulcrion\Practice\Expression\Op && $part->name === $name ? $part->args : [$part]];
            }

            return Coercion::op(
                $name,
                $parts,
                $boolean,
                array_reduce($parts, static fn (bool $any, Expr $part): bool => $any || $part->nullable, false),
            );
        }
        if (
            ($e->operator === '+' || $e->operator === '-') &&
            ($e->right instanceof Ast\IntervalLiteral || $e->left instanceof Ast\IntervalLiteral)
        ) {
            return $this->interval($e);
        }
        if (
            $e->left instanceof Ast\Tuple &&
            $e->right instanceof Ast\Tuple &&
            count($e->left->items) === count($e->right->items) &&
            ($e->operator === '=' || $e->operator === '<>')
        ) {
            $all = null;
            foreach ($e->left->items as $i => $item) {
                $one = new Ast\Binary($item->at, '=', $item, $e->right->items[$i]);
                $all = $all === null ? $one : new Ast\Binary($e->at, 'AND', $all, $one);
            }

            return $all === null ? Constant::true() : $this->negate($this->bind($all), $e->operator === '<>');
        }
        $left = $this->bind($e->left);
        $right = $this->bind($e->right);
        if ($e->operator === '||') {
            return FunctionLibrary::call('concat', [$left, $right], $e->at);
        }
        $comparison = self::COMPARISONS[$e->operator] ?? ($e->operator === '==' ? 'eq' : null);
        if ($comparison !== null) {
            return $this->located($e->at, fn (): Expr => $this->compare($comparison, $left, $right, $e->at));
        }
        if ($e->operator === '<=>') {
            return $this->located($e->at, fn (): Expr => $this->compare('same', $left, $right, $e->at));
        }

        return FunctionLibrary::arithmetic(self::ARITHMETIC[$e->operator], $left, $right, $e->at);
    }

    private function compare(string $name, Expr $left, Expr $right, int $at): Expr
    {
        [$both] = Coercion::unify([$left, $right], $at);

        return Coercion::op($name, $both, ColumnType::of(TypeKind::Boolean), $name !== 'same' && ($left->nullable || $right->nullable));
    }

    private function interval(Ast\Binary $e): Expr
    {
        $swapped = $e->left instanceof Ast\IntervalLiteral;
        $interval = $swapped ? $e->left : $e->right;
        if (! ($interval instanceof Ast\IntervalLiteral) || ($swapped && $e->operator === '-')) {
            throw new WarehouseError('An INTERVAL can only be added to or taken from a date or timestamp.', $e->at);
        }
        $moment = FunctionLibrary::moment($this->bind($swapped ? $e->right : $e->left), $e->at);
        $amount = $this->bind($interval->amount);
        if (! $amount->type->is(TypeKind::Bigint)) {
            throw new WarehouseError('An INTERVAL needs a whole number.', $interval->at);
        }
        if ($e->operator === '-') {
            $amount = Coercion::op('neg', [$amount], $amount->type, $amount->nullable);
        }
        if (
            $moment->type->is(TypeKind::Date) &&
            in_array($interval->unit, ['MICROSECOND', 'MILLISECOND', 'SECOND', 'MINUTE', 'HOUR'], true)
        ) {
            $moment = Coercion::to($moment, ColumnType::of(TypeKind::Timestamp));
        }

        return Coercion::op(
            'plus_interval',
            [$moment, $amount],
            $moment->type,
            $moment->nullable || $amount->nullable,
            strtolower($interval->unit),
        );
    }

    private function between(Ast\Between $e): Expr
    {
        $value = $this->bind($e->value);
        $low = $this->bind($e->low);
        $high = $this->bind($e->high);

        return $this->located(
            $e->at,
            fn (): Expr => Coercion::op(
                'and',
                [$this->compare('ge', $value, $low, $e->at), $this->compare('le', $value, $high, $e->at)],
                ColumnType::of(TypeKind::Boolean),
                $value->nullable || $low->nullable || $high->nullable,
            ),
        );
    }

    private function inList(Ast\InList $e): Expr
    {
        if ($e->value instanceof Ast\Tuple) {
            $any = null;
            foreach ($e->items as $item) {
                $one = new Ast\Binary($e->at, '=', $e->value, $item);
                $any = $any === null ? $one : new Ast\Binary($e->at, 'OR', $any, $one);
            }

            return $this->bind($any ?? throw new WarehouseError('IN needs at least one value.', $e->at));
        }

        return $this->located($e->at, function () use ($e): Expr {
            [$args] = Coercion::unify([$this->bind($e->value), ...array_map($this->bind(...), $e->items)], $e->at);

            return Coercion::op(
                'in',
                $args,
                ColumnType::of(TypeKind::Boolean),
                array_reduce($args, static fn (bool $any, Expr $arg): bool => $any || $arg->nullable, false),
            );
        });
    }

    private function inQuery(Ast\InQuery $e): Expr
    {
        $plan = $this->queries->query($e->query, $this->scope);
        [$plan, $left] = $this->beside($plan, $this->bind($e->value), $e->at);

        return SubqueryExpr::boolean(SubqueryExpr::IN, $plan, $left);
    }

    private function quantified(Ast\Quantified $e): Expr
    {
        $plan = $this->queries->query($e->query, $this->scope);
        [$plan, $left] = $this->beside($plan, $this->bind($e->value), $e->at);

        return SubqueryExpr::boolean(
            $e->all ? SubqueryExpr::ALL : SubqueryExpr::ANY,
            $plan,
            $left,
            self::COMPARISONS[$e->operator] ?? 'eq',
        );
    }

    /**
     * @return array{\Fulcrion\Practice\Logical\RelationNode, Expr}
     */
    private function beside(\Fulcrion\Practice\Logical\RelationNode $plan, Expr $left, int $at): array
    {
        $fields = $plan->fields();
        if (count($fields) !== 1) {
            throw new WarehouseError('The subquery must give one column, not '.count($fields).'.', $at);
        }
        [[$left, $right], $type] = Coercion::unify([$left, $fields[0]->ref()], $at);

        return [$right->key() === "#{$fields[0]->id}" ? $plan : $this->queries->cast($plan, [$type]), $left];
    }

    private function scalar(Ast\ScalarQuery $e): Expr
    {
        $plan = $this->queries->query($e->query, $this->scope);
        $fields = $plan->fields();
        if (count($fields) !== 1) {
            throw new WarehouseError('The subquery must give one column, not '.count($fields).'.', $e->at);
        }

        return new SubqueryExpr(SubqueryExpr::SCALAR, $plan, null, '', $fields[0]->type);
    }

    private function like(Ast\Like $e): Expr
    {
        $text = ColumnType::of(TypeKind::Text);
        $escape = $e->escape === null ? null : $this->bind($e->escape);
        if ($escape !== null && (! ($escape instanceof Constant) || ! is_string($escape->value) || mb_strlen($escape->value) !== 1)) {
            throw new WarehouseError('ESCAPE takes one character.', $e->at);
        }
        $args = [Coercion::to($this->bind($e->value), $text), Coercion::to($this->bind($e->pattern), $text)];
        if ($e->anyCase) {
            $args = array_map(static fn (Expr $arg): Expr => FunctionLibrary::call('lower', [$arg], $e->at), $args);
        }

        return Coercion::op(
            'like',
            $args,
            ColumnType::of(TypeKind::Boolean),
            $args[0]->nullable || $args[1]->nullable,
            $escape instanceof Constant ? (string) $escape->value : null,
        );
    }

    private function test(Ast\IsTest $e): Expr
    {
        if ($e->what === null) {
            return Coercion::op('isnull', [$this->bind($e->value)], ColumnType::of(TypeKind::Boolean), false);
        }
        $value = $this->condition($e->value);

        return $this->compare('same', $value, new Constant($e->what, ColumnType::of(TypeKind::Boolean)), $e->at);
    }

    private function distinct(Ast\DistinctTest $e): Expr
    {
        return $this->compare('same', $this->bind($e->left), $this->bind($e->right), $e->at);
    }

    private function negate(Expr $e, bool $negated): Expr
    {
        return $negated ? Coercion::op('not', [$e], ColumnType::of(TypeKind::Boolean), $e->nullable) : $e;
    }

    private function caseOf(Ast\CaseOf $e): Expr
    {
        $conditions = [];
        $results = [];
        foreach ($e->branches as [$condition, $result]) {
            $conditions[] =
                $e->operand === null
                    ? $this->condition($condition)
                    : $this->bind(new Ast\Binary($condition->at, '=', $e->operand, $condition));
            $results[] = $this->bind($result);
        }
        if ($e->otherwise !== null) {
            $results[] = $this->bind($e->otherwise);
        }
        [$results, $type] = Coercion::unify($results, $e->at);
        $args = [];
        foreach ($conditions as $i => $condition) {
            array_push($args, $condition, $results[$i]);
        }
        if ($e->otherwise !== null) {
            $args[] = $results[count($results) - 1];
        }

        return Coercion::op(
            'case',
            $args,
            $type,
            $e->otherwise === null || array_reduce($results, static fn (bool $any, Expr $result): bool => $any || $result->nullable, false),
        );
    }

    private function cast(Ast\Cast $e): Expr
    {
        try {
            $type = ColumnType::named($e->type);
        } catch (InvalidArgumentException $exception) {
            throw new WarehouseError(ucfirst($exception->getMessage()).'.', $e->type->at);
        }
        $value = $this->bind($e->value);
        if ((string) $value->type === (string) $type) {
            return $value;
        }
        $times = [TypeKind::Date, TypeKind::Timestamp];
        if (
            ($value->type->is(...$times) && ($type->isNumber() || $type->is(TypeKind::Boolean))) ||
            ($type->is(...$times) &&
                ! $value->type->is(TypeKind::Text, ...$times) &&
                ! ($value instanceof Constant && $value->value === null))
        ) {
            throw new WarehouseError("{$value->type} cannot be cast to {$type}.", $e->at);
        }

        return $this->located(
            $e->at,
            static fn (): Expr => $value instanceof Constant && $value->value === null
                ? new Constant(null, $type)
                : Coercion::op('cast', [$value], $type, $value->nullable),
        );
    }

    private function call(Ast\Call $e): Expr
    {
        if ($e->over !== null) {
            return $this->window($e, $e->over);
        }
        if (in_array($e->name, Aggregates::PLAIN, true)) {
            return $this->aggregate($e);
        }
        if (isset(self::RANKINGS[$e->name]) || $e->name === 'lag' || $e->name === 'lead') {
            throw new WarehouseError("The window function {$e->name} needs OVER (...).", $e->at);
        }
        if ($e->distinct || $e->filter !== null || $e->orderBy !== []) {
            throw new WarehouseError("DISTINCT, FILTER and ORDER BY cannot be used with the function {$e->name}.", $e->at);
        }
        if ($e->name === 'keyed_hash' && count($e->arguments) === 1) {
            $value = $this->bind($e->arguments[0]);
            $type = ColumnType::of($value->type->is(TypeKind::Bigint) ? TypeKind::Bigint : TypeKind::Text);

            return Coercion::op('keyed_hash', [Coercion::to($value, $type)], $type, $value->nullable, $this->queries->hashKey());
        }
        if ($e->name === 'current_date') {
            return Coercion::to(
                new Constant($this->queries->session->nowUs, ColumnType::of(TypeKind::Timestamp)),
                ColumnType::of(TypeKind::Date),
            );
        }
        if ($e->name === 'now' || $e->name === 'current_timestamp' || $e->name === 'localtimestamp') {
            return new Constant($this->queries->session->nowUs, ColumnType::of(TypeKind::Timestamp));
        }
        if ($e->name === 'if' && count($e->arguments) === 3) {
            return FunctionLibrary::call(
                'if',
                [$this->condition($e->arguments[0]), $this->bind($e->arguments[1]), $this->bind($e->arguments[2])],
                $e->at,
            );
        }

        return $this->located($e->at, fn (): Expr => FunctionLibrary::call($e->name, array_map($this->bind(...), $e->arguments), $e->at));
    }

    private function aggregate(Ast\Call $e): Expr
    {
        if ($this->gathering === null) {
            throw new WarehouseError(
                "The aggregate {$e->name} cannot be used here; aggregates stand in SELECT, HAVING and ORDER BY.",
                $e->at,
            );
        }
        if ($this->gathering->insideAggregate) {
            throw new WarehouseError('An aggregate cannot stand inside another one.', $e->at);
        }
        $this->gathering->insideAggregate = true;
        [$argument, $type, $nullable] = $this->aggregateArgument($e);
        if ($e->name === 'approx_count_distinct' && $e->distinct) {
            throw new WarehouseError('approx_count_distinct counts distinct values anyway; leave DISTINCT out.', $e->at);
        }
        $filter = $e->filter === null ? null : $this->condition($e->filter);
        $this->gathering->insideAggregate = false;
        $aggregate = new Aggregate(
            $e->name,
            $argument,
            $e->distinct && $e->name !== 'min' && $e->name !== 'max',
            $filter,
            $type,
            $nullable,
        );
        $known = $this->gathering->aggregates[$aggregate->key()] ??= [
            $this->queries->field($aggregate->text(), $type, $nullable),
            $aggregate,
        ];

        return $known[0]->ref();
    }

    /**
     * @return array{Expr|null, ColumnType, bool} argument, type of the result, whether the result can be null
     */
    private function aggregateArgument(Ast\Call $e): array
    {
        $whole = ColumnType::of(TypeKind::Bigint);
        if ($e->name === 'count' && (($e->arguments[0] ?? null) instanceof Ast\Star || $e->arguments === [])) {
            return [null, $whole, false];
        }
        if (count($e->arguments) !== 1) {
            throw new WarehouseError("The aggregate {$e->name} takes one argument.", $e->at);
        }
        $argument = $this->bind($e->arguments[0]);
        if ($e->name === 'count' || $e->name === 'approx_count_distinct') {
            return [$argument, $whole, false];
        }
        if ($e->name === 'sum' || $e->name === 'avg') {
            if ($argument->type->is(TypeKind::Boolean)) {
                $argument = Coercion::to($argument, $whole);
            }
            FunctionLibrary::number($argument, $e->name, $e->at);
            $type = $argument->type->is(TypeKind::Double)
                ? $argument->type
                : ($e->name === 'avg'
                    ? FunctionLibrary::decimal($argument->type->scale + 4, $e->at)
                    : ($argument->type->is(TypeKind::Bigint)
                        ? $argument->type
                        : ColumnType::decimal(ColumnType::MOST_DIGITS, $argument->type->scale)));

            return [$argument, $type, true];
        }

        return [$argument, $argument->type, true];
    }

    private function window(Ast\Call $e, Ast\Over $over): Expr
    {
        if ($this->gathering === null || $this->gathering->insideAggregate) {
            throw new WarehouseError(
                "The window function {$e->name} cannot be used here; window functions stand in SELECT and ORDER BY.",
                $e->at,
            );
        }
        if ($over->name !== null) {
            $named = $this->windows[$over->name] ?? throw new WarehouseError("There is no window {$over->name}.", $over->at);
            $over = new Ast\Over(
                $over->at,
                $over->partitionBy === [] ? $named->partitionBy : $over->partitionBy,
                $over->orderBy === [] ? $named->orderBy : $over->orderBy,
                $over->frame ?? $named->frame,
                null,
            );
        }
        if ($e->filter !== null || $e->distinct) {
            throw new WarehouseError('DISTINCT and FILTER cannot be used in a window function.', $e->at);
        }
        $partitionBy = array_map($this->bind(...), $over->partitionBy);
        $orderBy = $this->sortTerms($over->orderBy);
        $frame = self::frame($over, $orderBy !== []);
        [$arguments, $type, $nullable] = $this->windowArguments($e);
        $call = new WindowCall($e->name, $arguments, $partitionBy, $orderBy, $frame, $type);
        $known = $this->gathering->windows[$call->key()] ??= [$this->queries->field($e->name, $type, $nullable), $call];

        return $known[0]->ref();
    }

    /** @throws WarehouseError */
    private static function frame(Ast\Over $over, bool $ordered): string
    {
        return match ($over->frame) {
            null => $ordered ? WindowCall::PEERS : WindowCall::WHOLE,
            'ROWS UNBOUNDED PRECEDING', 'ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW' => WindowCall::ROWS,
            'RANGE UNBOUNDED PRECEDING', 'RANGE BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW' => $ordered
                ? WindowCall::PEERS
                : WindowCall::WHOLE,
            'ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING',
            'RANGE BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING' => WindowCall::WHOLE,
            default => throw new WarehouseError(
                "The frame {$over->frame} cannot be run; frames begin at UNBOUNDED PRECEDING and end at the current row or the end.",
                $over->at,
            ),
        };
    }

    /**
     * @return array{list<Expr>, ColumnType, bool} arguments, type, whether it can be NULL
     *
     * @throws WarehouseError
     */
    private function windowArguments(Ast\Call $e): array
    {
        $whole = ColumnType::of(TypeKind::Bigint);
        if (isset(self::RANKINGS[$e->name])) {
            [$arguments, $type, $nullable] = [[], $whole, false];
        } elseif ($e->name === 'lag' || $e->name === 'lead') {
            $arguments = array_map($this->bind(...), $e->arguments);
            if (
                $arguments === [] ||
                count($arguments) > 3 ||
                (isset($arguments[1]) && ! ($arguments[1] instanceof Constant && is_int($arguments[1]->value)))
            ) {
                throw new WarehouseError("{$e->name} takes a value, a constant number of rows and a default.", $e->at);
            }
            if (isset($arguments[2])) {
                [[$arguments[0], $arguments[2]]] = Coercion::unify([$arguments[0], $arguments[2]], $e->at);
            }
            [$type, $nullable] = [$arguments[0]->type, true];
        } elseif (in_array($e->name, Aggregates::PLAIN, true) && $e->name !== 'approx_count_distinct') {
            [$argument, $type, $nullable] = $this->aggregateArgument($e);
            $arguments = $argument === null ? [] : [$argument];
        } else {
            throw new WarehouseError(
                "The window function {$e->name} cannot be run; row_number, rank, dense_rank, lag, lead, count, sum, avg, min and max can.",
                $e->at,
            );
        }

        return [$arguments, $type, $nullable];
    }

    /**
     * Errors of constants that are computed while binding get their place.
     *
     * @param  callable(): Expr  $bind
     */
    private function located(int $at, callable $bind): Expr
    {
        try {
            return $bind();
        } catch (WarehouseError $error) {
            // What is computed while binding is written in the statement itself, and no value of a table.
            throw $error->offset === null ? new WarehouseError($error->sealed(), $at) : $error;
        }
    }
}
