<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Mutants;

use PhpParser\Node;
use PhpParser\Node\Expr;
use PhpParser\Node\Scalar;
use PhpParser\Node\Stmt;
use PhpParser\NodeFinder;
use PhpParser\ParserFactory;

/**
 * Finds the places of a file where one small mistake could be made: an operator, a constant, a condition.
 */
final class Mutator
{
    /** Operators and what they are mistaken for. */
    private const OPERATORS = [
        '+' => '-', '-' => '+', '*' => '/', '/' => '*', '%' => '*', '**' => '*', '<' => '<=', '<=' => '<', '>' => '>=', '>=' => '>',
        '===' => '!==', '!==' => '===', '==' => '!=', '!=' => '==', '&&' => '||', '||' => '&&', '&' => '|', '|' => '&', '<<' => '>>',
        '>>' => '<<', '??' => null, '.' => null, '<=>' => null, '^' => '&', 'and' => null, 'or' => null, 'xor' => null, '|>' => null,
    ];

    private const CALLS = ['min' => 'max', 'max' => 'min', 'floor' => 'ceil', 'ceil' => 'floor', 'array_sum' => 'count',
        'ksort' => 'krsort', 'array_unique' => 'array_values'];

    /**
     * @return list<Mutant> in the order of the file
     */
    public function of(string $path, string $source): array
    {
        $tree = (new ParserFactory())->createForHostVersion()->parse($source) ?? [];
        $mutants = [];
        $finder = new NodeFinder();
        // What a file declares is no step of it; and that a search looks at types as well tells texts from texts in no other way.
        $skipped = [];
        foreach ($finder->find($tree, static fn (Node $node): bool => true) as $node) {
            if ($node instanceof Node\DeclareItem) {
                $skipped[$node->value->getStartFilePos()] = true;
            }
            if (
                $node instanceof Expr\FuncCall && $node->name instanceof Node\Name &&
                in_array((string) $node->name, ['in_array', 'array_search'], true) && ($node->args[2] ?? null) instanceof Node\Arg
            ) {
                $skipped[$node->args[2]->value->getStartFilePos()] = true;
            }
        }
        foreach ($finder->find($tree, static fn (Node $node): bool => ! isset($skipped[$node->getStartFilePos()])) as $node) {
            // Constants of the class count as much as those in its code; attributes and default values of a docblock do not.
            array_push($mutants, ...self::node($path, $source, $node));
        }
        usort($mutants, static fn (Mutant $a, Mutant $b): int => [$a->at, $a->to] <=> [$b->at, $b->to]);

        return $mutants;
    }

    /**
     * @return list<Mutant>
     */
    private static function node(string $path, string $source, Node $node): array
    {
        $text = static fn (Node $of): string => substr($source, $of->getStartFilePos(), $of->getEndFilePos() - $of->getStartFilePos() + 1);
        $whole = static fn (Node $of, string $to): Mutant =>
            new Mutant($path, $of->getStartLine(), $of->getStartFilePos(), $text($of), $to);

        return match (true) {
            $node instanceof Expr\BinaryOp => self::operator($path, $source, $node),
            $node instanceof Scalar\Int_ => [$whole($node, (string) ($node->value + 1))],
            $node instanceof Scalar\Float_ => [$whole($node, $node->value === 0.0 ? '1.0' : var_export($node->value * 1.5, true))],
            $node instanceof Expr\ConstFetch && in_array(strtolower((string) $node->name), ['true', 'false'], true) => [
                $whole($node, strtolower((string) $node->name) === 'true' ? 'false' : 'true'),
            ],
            $node instanceof Expr\BooleanNot => [$whole($node, $text($node->expr))],
            $node instanceof Expr\UnaryMinus => [$whole($node, $text($node->expr))],
            $node instanceof Stmt\If_, $node instanceof Stmt\ElseIf_ => [$whole($node->cond, '! ('.$text($node->cond).')')],
            $node instanceof Expr\Ternary && $node->if !== null => [$whole($node->cond, '! ('.$text($node->cond).')')],
            $node instanceof Expr\FuncCall && $node->name instanceof Node\Name && isset(self::CALLS[(string) $node->name]) => [
                $whole($node->name, self::CALLS[(string) $node->name]),
            ],
            $node instanceof Expr\AssignOp\Plus, $node instanceof Expr\AssignOp\Minus => [
                $whole($node, $text($node->var).' = '.$text($node->expr)),
            ],
            $node instanceof Stmt\Continue_ => [$whole($node, 'break;')],
            default => [],
        };
    }

    /**
     * @return list<Mutant>
     */
    private static function operator(string $path, string $source, Expr\BinaryOp $node): array
    {
        $sigil = $node->getOperatorSigil();
        $to = self::OPERATORS[$sigil] ?? null;
        $at = strpos($source, $sigil, $node->left->getEndFilePos() + 1);
        if ($to === null || $at === false || $at > $node->right->getStartFilePos()) {
            return [];
        }

        return [new Mutant($path, $node->left->getEndLine(), $at, $sigil, $to)];
    }
}
