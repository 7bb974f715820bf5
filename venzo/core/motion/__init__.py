"""How long do moves really take, with axes that must accelerate?"""
