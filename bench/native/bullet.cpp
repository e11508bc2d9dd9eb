// Runs a scene in Debian's Bullet (libbullet-dev), for a comparison of speed: bullet SCENE. Prints milliseconds a frame and how many bodies rest.
// SCENE, little-endian: u32 bodies, frames, steps a frame, iterations; f32 seconds a step; then for each body u32 kind (0 still
// plane at height 0, 1 ball, 2 hulls), f32 mass, place (3), turn (x y z w), friction; of a ball f32 radius; of hulls u32 count, and for
// each u32 points and 3 f32 for each of them.
#include <btBulletDynamicsCommon.h>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <fstream>
#include <vector>

static std::ifstream in;
template <typename T> T take() {
	T value;
	in.read(reinterpret_cast<char*>(&value), sizeof(T));
	return value;
}

int main(int, char** words) {
	in.open(words[1], std::ios::binary);
	const auto bodies = take<uint32_t>(), frames = take<uint32_t>(), steps = take<uint32_t>(), iterations = take<uint32_t>();
	const auto dt = take<float>();
	btDefaultCollisionConfiguration configuration;
	btCollisionDispatcher dispatcher(&configuration);
	btDbvtBroadphase broadphase;
	btSequentialImpulseConstraintSolver solver;
	btDiscreteDynamicsWorld world(&dispatcher, &broadphase, &solver, &configuration);
	world.setGravity(btVector3(0, -9.81f, 0));
	world.getSolverInfo().m_numIterations = int(iterations);
	std::vector<btRigidBody*> all;
	for (uint32_t i = 0; i < bodies; i++) {
		const auto kind = take<uint32_t>();
		const auto mass = take<float>();
		float pose[7];
		for (float& value : pose) value = take<float>();
		const auto friction = take<float>();
		btCollisionShape* shape = nullptr;
		if (kind == 0) shape = new btStaticPlaneShape(btVector3(0, 1, 0), 0);
		else if (kind == 1) shape = new btSphereShape(take<float>());
		else {
			const auto hulls = take<uint32_t>();
			auto* compound = hulls > 1 ? new btCompoundShape() : nullptr;
			for (uint32_t h = 0; h < hulls; h++) {
				auto* hull = new btConvexHullShape();
				const auto points = take<uint32_t>();
				for (uint32_t p = 0; p < points; p++) {
					const float x = take<float>(), y = take<float>(), z = take<float>();
					hull->addPoint(btVector3(x, y, z), false);
				}
				hull->setMargin(0.001f);
				hull->recalcLocalAabb();
				if (compound) compound->addChildShape(btTransform::getIdentity(), hull);
				else shape = hull;
			}
			if (compound) shape = compound;
		}
		btVector3 inertia(0, 0, 0);
		if (mass > 0) shape->calculateLocalInertia(mass, inertia);
		btRigidBody::btRigidBodyConstructionInfo info(mass, nullptr, shape, inertia);
		info.m_startWorldTransform = btTransform(btQuaternion(pose[3], pose[4], pose[5], pose[6]), btVector3(pose[0], pose[1], pose[2]));
		info.m_friction = friction;
		all.push_back(new btRigidBody(info));
		world.addRigidBody(all.back());
	}
	const auto begin = std::chrono::steady_clock::now();
	for (uint32_t n = 0; n < frames * steps; n++) world.stepSimulation(dt, 0);
	const std::chrono::duration<double, std::milli> passed = std::chrono::steady_clock::now() - begin;
	int resting = 0;
	float low = 0;
	for (const auto* body : all) {
		if (body->getInvMass() > 0 && !body->isActive()) resting++;
		low = std::min(low, body->getWorldTransform().getOrigin().y());
	}
	std::printf("{\"frame\": %g, \"resting\": %d, \"lowest\": %g}\n", passed.count() / frames, resting, low);
}
